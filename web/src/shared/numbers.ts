/** Numbers as people type them: read as they stand, or asked about; never changed on the way. */

/** The number typed, or why it is none; empty text is neither. A decimal comma is a point. */
export function numberOf(typed: string): { value: number | null; why: string } {
  const text = typed.trim()
  if (text === '') return { value: null, why: '' }
  if (/^(\d+([.,]\d*)?|[.,]\d+)$/.test(text) && !/^\d{1,3},\d{3}$/.test(text)) return { value: Number(text.replace(',', '.')), why: '' }
  return { value: null, why: whyNot(text) }
}

function whyNot(text: string): string {
  if (/^[-−–]/.test(text)) return `“${text}” has a minus sign, and no reading here has one: type it without.`
  if (/^\d+[.,\d]*[eE]/.test(text)) return `“${text}” is written with an exponent: type all its digits.`
  if (/[oO]/.test(text)) return `“${text}” has a letter O in it: type the digit 0 if that is meant.`
  if (/,/.test(text)) return `“${text}” may be thousands or a decimal: type it without the comma.`
  return `“${text}” is no number: type digits and one decimal point.`
}

/** A number that may be below zero, as temperatures and powers of gauges are. */
export function signedNumberOf(typed: string): { value: number | null; why: string } {
  const text = typed.trim()
  const below = /^[-−–](?=[\d.,])/.test(text)
  const { value, why } = numberOf(below ? text.slice(1) : text)
  return { value: value === null || !below ? value : -value, why }
}
