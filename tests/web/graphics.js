// Shapes that say something and stand out from what they lie on by less than 3 to 1 (WCAG 2.1, 1.4.11); with axe-core.
// Left out: what a finger meets and no eye must see, and the glow behind a suspect, whose badge says the same in figures.
() => {
  const { Color, getContrast } = axe.commons.color
  const colour = (text) => {
    const one = new Color()
    one.parseString(text)
    return one
  }
  const clear = (text) => text === 'none' || text === 'transparent' || /, 0\)$/.test(text)
  const behind = (e) => {
    const own = getComputedStyle(e).backgroundColor
    return clear(own) && e.parentElement ? behind(e.parentElement) : own
  }
  const root = getComputedStyle(document.documentElement)
  const shapes = [...document.querySelectorAll('main svg :is(line, polyline, path, rect, circle, ellipse)')]
  const said = shapes.filter((e) => e.checkVisibility() && !e.matches('.reach, .glow, .recharts-cartesian-grid *') && !e.closest('.ant-empty'))
  const found = said.flatMap((e) => {
    const { stroke, fill } = getComputedStyle(e)
    const drawn = [stroke, fill].filter((one) => !clear(one))
    // The strip's rows lie on paper and on sand by turns.
    const under = e.closest('.strip') ? [root.getPropertyValue('--paper'), root.getPropertyValue('--sand')] : [behind(e.closest('svg'))]
    const best = Math.min(...under.map((one) => Math.max(0, ...drawn.map((two) => getContrast(colour(one.trim()), colour(two))))))
    return drawn.length && best < 3 ? [`${e.tagName} ${e.getAttribute('class') ?? ''}: ${best.toFixed(1)} to 1`] : []
  })
  return [...new Set(found)]
}
