import type { Look, SignKind } from '../../api/schema.gen'

/** What was told of the equipment as a whole: touched once it stands, touched again it is taken back. */
export function ToldView({
  signs,
  told,
  busy,
  look,
  withdraw,
  open = false,
}: {
  open?: boolean
  signs: readonly SignKind[]
  told: readonly Look[]
  busy: boolean
  look: (found: Omit<Look, 'id'>) => void
  withdraw: (told: Look) => void
}) {
  const about = signs.filter((sign) => sign.of === 'call')
  return (
    <details className="told" open={open}>
      <summary>
        What was told{' '}
        <span className="quiet">
          {told.length
            ? about
                .filter((sign) => told.some((one) => one.sign === sign.key))
                .map((sign) => sign.label.toLowerCase())
                .join(', ')
            : 'nothing yet'}
        </span>
      </summary>
      <div className="signs" role="group" aria-label="What was told of the equipment">
        {about.map((sign) => {
          const standing = told.find((one) => one.sign === sign.key && one.seen)
          return (
            <button
              key={sign.key}
              type="button"
              className="plain-button"
              aria-pressed={standing !== undefined}
              disabled={busy}
              onClick={() => (standing ? withdraw(standing) : look({ sign: sign.key, part: null, leg: null, zone: null, seen: true }))}
            >
              {sign.label}
            </button>
          )
        })}
      </div>
    </details>
  )
}
