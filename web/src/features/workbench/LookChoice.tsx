import type { Look, LookAsked, SignKind, Strip } from '../../api/schema.gen'
import { rowsOf } from '../../entities/strip/rows'
import type { Picked } from '../../entities/strip/setup'

type Props = { strip: Strip; picked: Picked | null; signs: readonly SignKind[]; busy: boolean; look: (found: Omit<Look, 'id'>) => void }

/** The signs that can be found at the part touched. */
export function LookChoice({ strip, picked, signs, busy, look }: Props) {
  const row = rowsOf(strip).find((one) => one.part === picked?.part)
  if (!row || !picked) return null
  const fitting = signs.filter((sign) => sign.of === row.looked_at_as && (!sign.parts.length || sign.parts.includes(row.kind)))
  return (
    <div className="signs" role="group" aria-label={`What is seen at the ${row.name}`}>
      {fitting.map((sign) => (
        <button
          key={sign.key}
          type="button"
          className="plain-button"
          disabled={busy}
          onClick={() => look({ sign: sign.key, part: picked.part, leg: picked.leg, zone: null, seen: true })}
        >
          {sign.label}
        </button>
      ))}
      <button
        type="button"
        className="plain-button nothing"
        disabled={busy || !fitting[0]}
        onClick={() => fitting[0] && look({ sign: fitting[0].key, part: picked.part, leg: picked.leg, zone: null, seen: false })}
      >
        Nothing to see
      </button>
    </div>
  )
}

/** A box to look over, as the next test asks: where the mark is, or that there is none. */
export function LookOver({ asked, busy, look }: { asked: LookAsked; busy: boolean; look: (found: Omit<Look, 'id'>) => void }) {
  const SHOWN = 6
  const place = (one: LookAsked['places'][number]) => (
    <button
      key={one.words}
      type="button"
      className="plain-button"
      disabled={busy}
      onClick={() => look({ sign: asked.sign, part: one.part, leg: one.leg, zone: null, seen: true })}
    >
      {one.words}
    </button>
  )
  return (
    <div className="signs" role="group" aria-label={`${asked.label}: where?`}>
      <button
        type="button"
        className="accent-button"
        disabled={busy}
        onClick={() => look({ sign: asked.sign, part: null, leg: null, zone: asked.zone, seen: false })}
      >
        {asked.nothing}
      </button>
      <p className="quiet wide">{asked.label} at:</p>
      {asked.places.slice(0, SHOWN).map(place)}
      {asked.places.length > SHOWN ? (
        <details>
          <summary className="plain-button">Elsewhere …</summary>
          {asked.places.slice(SHOWN).map(place)}
        </details>
      ) : null}
    </div>
  )
}
