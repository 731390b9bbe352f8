/** How large letters are here, as the browser is set to [px]; 16 where there is none, as in tests. */
export const lettersPx = () => (typeof document === 'undefined' ? 16 : parseFloat(getComputedStyle(document.documentElement).fontSize))
