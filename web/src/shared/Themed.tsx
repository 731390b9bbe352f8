import 'virtual:component-styles.css'

import { ConfigProvider } from 'antd'
import type { ReactNode } from 'react'

import { themeOf } from '../theme'
import { useColours } from './colours'

/** Forms, tables and notices of the component library in our own colors. */
export function Themed({ children }: { children: ReactNode }) {
  return <ConfigProvider theme={themeOf(useColours())}>{children}</ConfigProvider>
}
