import type { ReactNode } from 'react'

import type { ReadyMade } from '../../api/schema.gen'

type Family = ReadyMade['family']

/** What each sort of equipment looks like from where a technician first sees it: outline, and what is its own in the accent. */
const PICTURES: Record<Family, { outline: ReactNode; mark: ReactNode }> = {
  condenser: { outline: <path d="M8 14h48v42H8zM8 24h48M8 34h48M8 44h48" />, mark: <path d="M20 14c0-8 24-8 24 0" /> },
  heat_pump: { outline: <path d="M8 12h48v44H8zM20 56v4M44 56v4" />, mark: <path d="M22 34a10 10 0 0 1 18-6l3 3m0-8v8h-8M42 36a10 10 0 0 1-18 6" /> },
  rooftop: { outline: <path d="M4 56h56M8 56V28h30v28M38 56V36h18v20" />, mark: <path d="M16 28v-8h14v8M44 46h6" /> },
  packaged: { outline: <path d="M6 20h52v36H6zM32 20v36" />, mark: <path d="M14 30h10M14 38h10M14 46h10M42 38a6 6 0 1 0 .1 0" /> },
  furnace: { outline: <path d="M16 6h32v52H16zM16 22h32" />, mark: <path d="M24 32c4-4 4 4 8 0s4 4 8 0M24 42c4-4 4 4 8 0s4 4 8 0" /> },
  heat_strip: { outline: <path d="M8 8h12v48H8M20 16h36M20 48h36" />, mark: <path d="M22 24l6 6-6 6 6 6M34 24l6 6-6 6 6 6M46 24l6 6-6 6 6 6" /> },
  gas_furnace: { outline: <path d="M16 6h32v52H16zM16 38h32" />, mark: <path d="M32 12c6 7 8 10 8 15a8 8 0 0 1-16 0c0-5 5-7 8-15z" /> },
  fan_coil: { outline: <path d="M6 16h52v34H6zM12 42h40" />, mark: <path d="M22 28a6 6 0 1 0 .1 0M42 28a6 6 0 1 0 .1 0" /> },
  wall_unit: { outline: <path d="M4 6v52M60 6v52M10 16h44v30H10z" />, mark: <path d="M16 24h32M16 31h32M40 38h8" /> },
  duct_heater: { outline: <path d="M4 18h56M4 46h56M24 10h16v44H24z" />, mark: <path d="M28 22l8 5-8 5 8 5-8 5" /> },
  air_handler: { outline: <path d="M16 4h32v56H16zM16 24h32" />, mark: <path d="M24 14a8 5 0 1 0 16 0a8 5 0 1 0-16 0M22 34h20M22 42h20M22 50h20" /> },
  mini_split: { outline: <path d="M4 10h38v14H4zM24 36h36v22H24z" />, mark: <path d="M10 19h26M12 24v23h12M36 47a6 6 0 1 0 12 0a6 6 0 1 0-12 0" /> },
  pool_heat_pump: {
    outline: <path d="M10 6h44v32H10z" />,
    mark: <path d="M22 22a10 8 0 1 0 20 0a10 8 0 1 0-20 0M4 48q7-6 14 0t14 0 14 0 14 0M4 57q7-6 14 0t14 0 14 0 14 0" />,
  },
  unit_heater: { outline: <path d="M32 4v8M10 12h44v36H10z" />, mark: <path d="M18 20v20M26 20v20M34 20v20M42 20v20" /> },
}

export function EquipmentPicture({ family }: { family: Family }) {
  const { outline, mark } = PICTURES[family]
  return (
    <svg viewBox="0 0 64 64" width="52" height="52" aria-hidden="true" fill="none" strokeLinecap="round" strokeLinejoin="round" className="picture">
      <g className="picture-outline">{outline}</g>
      <g className="picture-mark">{mark}</g>
    </svg>
  )
}
