import { extractStyle } from '@ant-design/static-style-extract'
import { ConfigProvider } from 'antd'
import { createElement } from 'react'
import type { Plugin } from 'vite'

/** What of the component library the pages use, and what these are made of. */
const USED = [
  'Button',
  'Checkbox',
  'DatePicker',
  'Dropdown',
  'Empty',
  'Form',
  'Input',
  'Modal',
  'notification',
  'Pagination',
  'Popconfirm',
  'Popover',
  'Progress',
  'Radio',
  'Result',
  'Segmented',
  'Select',
  'Spin',
  'Switch',
  'Table',
  'Tooltip',
  'Tour',
  'Upload',
]
const ID = 'virtual:component-styles.css'

/** The component library's styles as one sheet made at build, so that no browser works them out before it paints. */
export function componentStyles(): Plugin {
  return {
    name: 'component-styles',
    resolveId: (source) => (source === ID ? `\0${ID}` : undefined),
    load: (id) =>
      id === `\0${ID}`
        ? extractStyle({ includes: USED, customTheme: (node) => createElement(ConfigProvider, { theme: { hashed: false } }, node) })
            .replaceAll(/<\/?style[^>]*>/g, '')
            // The values themselves come with the theme, for light and for dark.
            .replaceAll(/\.css-var-[^{]*\{[^}]*\}/g, '')
            // Links are ours.
            .replaceAll(/(?<=^|\})a(:[\w-]+|\[[^\]]*\]|,a)*\{[^}]*\}/g, '')
        : undefined,
  }
}
