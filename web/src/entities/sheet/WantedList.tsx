import type { RatedSupply } from '../../api/schema.gen'
import { Arithmetic } from '../../shared/Arithmetic'

/** What should be there, what may be carried, what matches: the answer first, its arithmetic on demand. */
export function WantedList({ title, list, empty }: { title: string; list: RatedSupply['wanted']; empty: string }) {
  return (
    <details className="standing">
      <summary>
        {title} <span className="num">{list.length}</span>
      </summary>
      {list.length === 0 ? <p className="quiet">{empty}</p> : null}
      <dl className="wanted">
        {list.map((one) => (
          <div key={one.what}>
            <dt>{one.what}</dt>
            <dd>
              <b>{one.answer}</b>
              {one.worked ? (
                <details>
                  <summary className="quiet">How · {one.source}</summary>
                  <Arithmetic worked={one.worked} />
                </details>
              ) : (
                <span className="quiet">{one.source}</span>
              )}
            </dd>
          </div>
        ))}
      </dl>
    </details>
  )
}
