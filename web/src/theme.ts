import { theme as ant, type ThemeConfig } from 'antd'

import type { Colours } from './shared/colours'
import { lettersPx } from './shared/letters'

/** Warm ink, paper, copper and one citrus accent; the same values are CSS variables in styles.css. */
const PALETTES = {
  light: { soft: '#5f5344', ink: '#211b14', paper: '#fbf7ef', card: '#ffffff', copper: '#a4531f', link: '#8d4415', edge: '#9c8a70', alarm: '#8f2f1a' },
  dark: { soft: '#bfb19b', ink: '#f4ecdd', paper: '#17130e', card: '#1e1812', copper: '#a4531f', link: '#eda66f', edge: '#8f7d63', alarm: '#ff9c80' },
}

export function themeOf(colours: Colours): ThemeConfig {
  const palette = PALETTES[colours]
  const letters = lettersPx()
  return {
    // The styles are made at build (build/componentStyles): here only the values that differ between light and dark.
    hashed: false,
    zeroRuntime: true,
    algorithm: colours === 'dark' ? ant.darkAlgorithm : ant.defaultAlgorithm,
    token: {
      colorPrimary: palette.copper,
      colorInfo: palette.copper,
      colorLink: palette.link,
      colorLinkHover: palette.ink,
      colorTextBase: palette.ink,
      colorBgBase: palette.paper,
      colorBgContainer: palette.card,
      colorBgElevated: palette.card,
      colorTextDescription: palette.soft,
      // Arrows and other marks in fields: told from their ground by more than 3 to 1.
      colorTextQuaternary: palette.soft,
      colorIcon: palette.soft,
      colorWarning: colours === 'dark' ? '#c9743a' : palette.copper,
      colorBorder: palette.edge,
      colorError: palette.alarm,
      colorTextPlaceholder: colours === 'dark' ? '#a8997f' : '#6d6050',
      fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
      fontSize: letters,
      controlHeight: Math.round(2.875 * letters),
      borderRadius: 8,
      motion: false,
    },
    components: {
      Segmented:
        colours === 'dark'
          ? { trackBg: '#2b241b', itemColor: palette.ink, itemSelectedBg: '#d5e22f', itemSelectedColor: '#211b14' }
          : { trackBg: '#f3eadb', itemColor: palette.ink, itemSelectedBg: '#211b14', itemSelectedColor: '#d5e22f' },
      Pagination: { itemSize: 46, itemSizeSM: 46 },
      // The one thing to do is citrus, wherever it stands.
      Button: {
        colorPrimary: '#d5e22f',
        colorPrimaryHover: '#e2ec6a',
        colorPrimaryActive: '#bccb1c',
        primaryColor: '#211b14',
        fontWeight: 700,
        primaryShadow: 'none',
        defaultHoverColor: palette.ink,
        defaultHoverBorderColor: '#b4622b',
        defaultActiveColor: palette.ink,
        defaultActiveBorderColor: '#b4622b',
      },
    },
  }
}
