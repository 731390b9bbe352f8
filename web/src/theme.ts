import type { ThemeConfig } from 'antd'

/** Warm ink, paper, copper and one citrus accent; the same values are CSS variables in styles.css. */
export const palette = {
  ink: '#211b14',
  paper: '#fbf7ef',
  copper: '#a4531f',
  line: '#d9cbb6',
  alarm: '#8f2f1a',
}

export const theme: ThemeConfig = {
  token: {
    colorPrimary: palette.copper,
    colorTextBase: palette.ink,
    colorBgBase: palette.paper,
    colorBgContainer: '#ffffff',
    colorBorder: '#9c8a70',
    colorError: palette.alarm,
    fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
    fontSize: 16,
    controlHeight: 46,
    borderRadius: 8,
    motion: false,
  },
}
