import type { ReactNode } from 'react'

/** Marks of the frame: one weight of line, drawn for this application. */
const MARKS: Record<string, ReactNode> = {
  calls: <path d="M5 7h14M5 12h14M5 17h8M18.5 15.5v5M16 18h5" />,
  equipment: (
    <>
      <rect x="4" y="5" width="16" height="14" rx="2" />
      <circle cx="10.5" cy="12" r="4" />
      <path d="M17 8.5v7" />
    </>
  ),
  calculators: <path d="M4 18l5-12 4 9 2.5-5H20M4 21h16" />,
  tables: <path d="M4 6h16M4 12h16M4 18h16M10 6v12" />,
  people: (
    <>
      <circle cx="12" cy="8.5" r="3.5" />
      <path d="M5 20c1-4.5 3.5-6 7-6s6 1.5 7 6" />
    </>
  ),
}

export function Icon({ name }: { name: keyof typeof MARKS & string }) {
  return (
    <svg
      viewBox="0 0 24 24"
      width="24"
      height="24"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="2.2"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      {MARKS[name]}
    </svg>
  )
}
