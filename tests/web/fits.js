// What a glove would miss, an eye would not read, or lies beyond the edge of a phone; links within a sentence aside.
() => {
  const aside = '.visually-hidden, table, .ant-picker-dropdown'
  const around = 'label, .ant-select, .ant-picker, .ant-input-affix-wrapper, .ant-segmented-item, .number-box'
  const touched = 'button, summary, a, select, input:not([type=file]), [role=switch]'
  const shown = (e) => e.getClientRects().length > 0 && e.checkVisibility({ visibilityProperty: true }) && !e.closest(aside)
  const name = (e) => (e.getAttribute('aria-label') || e.textContent || e.tagName).trim().slice(0, 40)
  const height = (e) => (e.closest(around) ?? e).getBoundingClientRect().height
  const size = (e) => parseFloat(getComputedStyle(e).fontSize)
  const says = (e) => [...e.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim())
  const targets = [...document.querySelectorAll(touched)]
    .filter((e) => shown(e) && getComputedStyle(e).display !== 'inline' && height(e) < 43.5)
    .map((e) => `${name(e)}: ${Math.round(height(e))} px high`)
  const words = [...document.querySelectorAll('body *')]
    .filter((e) => shown(e) && says(e) && size(e) < 13.9)
    .map((e) => `${name(e)}: ${size(e)} px`)
  const wide = document.documentElement.scrollWidth
  return [...(wide > innerWidth + 1 ? [`${wide} px wide`] : []), ...targets, ...words]
}
