/** An id that nothing else has, told apart by a number. */
export function idFrom(prefix: string, taken: readonly string[]): string {
  let number = taken.length + 1
  while (taken.includes(`${prefix}_${number}`)) number += 1
  return `${prefix}_${number}`
}
