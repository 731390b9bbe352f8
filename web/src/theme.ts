import { theme as ant, type ThemeConfig } from 'antd'

import type { Colours } from './shared/colours'

/** Warm ink, paper, copper and one citrus accent; the same values are CSS variables in styles.css. */
const PALETTES = {
  light: { soft: '#5f5344', ink: '#211b14', paper: '#fbf7ef', card: '#ffffff', copper: '#a4531f', edge: '#9c8a70', alarm: '#8f2f1a' },
  dark: { soft: '#bfb19b', ink: '#f4ecdd', paper: '#17130e', card: '#1e1812', copper: '#a4531f', edge: '#8f7d63', alarm: '#ff9c80' },
}

export function themeOf(colours: Colours): ThemeConfig {
  const palette = PALETTES[colours]
  return {
    algorithm: colours === 'dark' ? ant.darkAlgorithm : ant.defaultAlgorithm,
    token: {
      colorPrimary: palette.copper,
      colorTextBase: palette.ink,
      colorBgBase: palette.paper,
      colorBgContainer: palette.card,
      colorBgElevated: palette.card,
      colorTextDescription: palette.soft,
      colorBorder: palette.edge,
      colorError: palette.alarm,
      colorTextPlaceholder: colours === 'dark' ? '#a8997f' : '#6d6050',
      fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
      fontSize: 16,
      controlHeight: 46,
      borderRadius: 8,
      motion: false,
    },
  }
}
