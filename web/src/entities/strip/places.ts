import type { Suspect } from '../../api/schema.gen'

/** A place where the hand would go: its likeliest way of failing, how sure all its ways are together, and the others. */
export type SuspectPlace = { chief: Suspect; probability: number; others: Suspect[] }

const NOTABLE = 0.005

/** Suspects gathered by place, the likeliest first. */
export function placesOf(suspects: readonly Suspect[]): SuspectPlace[] {
  const places = new Map<string, SuspectPlace>()
  for (const one of suspects) {
    const place = places.get(one.place)
    if (!place) places.set(one.place, { chief: one, probability: one.probability, others: [] })
    else {
      place.probability += one.probability
      if (one.probability >= NOTABLE) place.others.push(one)
    }
  }
  return [...places.values()].sort((a, b) => b.probability - a.probability)
}
