import { defaultScheduler, notifyManager } from '@tanstack/react-query'

/** A press that lasts longer is no touch of a button; and an end of it may never be heard of, as on a scroll bar. */
const LONGEST_PRESS_MS = 1500

let isPressed = false
let heldBack: (() => void)[] = []

/** Says when no button is pressed: at once, or once the finger is up and its click has come. */
export const whenReleased = () => (isPressed ? new Promise<void>((go) => heldBack.push(go)) : Promise.resolve())

/**
 * Lets nothing move under a finger: what an answer would change on the page waits until the button that is pressed is
 * released. Else a number left by pressing a tick below it is answered meanwhile, the lines move on, and the tick is lost.
 */
export function holdStillWhilePressed() {
  let releaseTimer: ReturnType<typeof setTimeout> | undefined
  const release = () => {
    clearTimeout(releaseTimer)
    isPressed = false
    const held = heldBack
    heldBack = []
    // The click comes first.
    for (const go of held) defaultScheduler(go)
  }
  const press = () => {
    clearTimeout(releaseTimer)
    isPressed = true
    releaseTimer = setTimeout(release, LONGEST_PRESS_MS)
  }
  notifyManager.setScheduler((flush) => (isPressed ? heldBack.push(flush) : defaultScheduler(flush)))
  window.addEventListener('pointerdown', press, true)
  for (const end of ['pointerup', 'pointercancel', 'dragend']) window.addEventListener(end, release, true)
  // The window's own: a field that is left says so too, as it is captured.
  window.addEventListener('blur', release)
}
