/** A list with something in it that was not there, or without it. */
export const toggled = (list: readonly string[], item: string): string[] => (list.includes(item) ? list.filter((other) => other !== item) : [...list, item])
