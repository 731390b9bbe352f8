import type { ReactNode } from 'react'
import { createPortal } from 'react-dom'
import { useOutletContext } from 'react-router'

/** Puts a page's own words into the header, and into the tab. */
export function FrameTitle({ title, children }: { title: string; children?: ReactNode }) {
  const slot = useOutletContext<HTMLElement | null>()
  return (
    <>
      <title>{`${title} · Zesty Copper`}</title>
      <h1 className="visually-hidden">{title}</h1>
      {slot ? createPortal(children ?? title, slot) : null}
    </>
  )
}
