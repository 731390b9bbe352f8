import { isClash } from '../api/client'

type Props = { error: Error | null; busy: boolean; seeTheirs: () => void; keepMine: () => void }

/** What went wrong with a change; where somebody else changed the same meanwhile, both can be had. */
export function Clash({ error, busy, seeTheirs, keepMine }: Props) {
  if (!error) return null
  return (
    <p className="problem" role="alert">
      {error.message}
      {isClash(error) ? (
        <span className="clash">
          <button type="button" className="plain-button" onClick={seeTheirs}>
            See theirs
          </button>
          <button type="button" className="plain-button" disabled={busy} onClick={keepMine}>
            Keep mine
          </button>
        </span>
      ) : null}
    </p>
  )
}
