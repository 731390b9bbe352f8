/** What stands where a page could not be shown at all. */
export function BrokenPage() {
  return (
    <main className="page">
      <h1>This page could not be shown.</h1>
      <p>What you typed and kept is safe. Load it again; if it stays so, go back to the calls.</p>
      <div className="row-of-buttons">
        <button type="button" className="accent-button" onClick={() => window.location.reload()}>
          Load it again
        </button>
        <a className="plain-button" href="/">
          Calls
        </a>
      </div>
    </main>
  )
}
