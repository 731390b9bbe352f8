import react from '@vitejs/plugin-react'
import { VitePWA } from 'vite-plugin-pwa'
import { defineConfig } from 'vite'

import { componentStyles } from './build/componentStyles'

export default defineConfig({
  plugins: [
    react(),
    componentStyles(),
    // The application itself opens without a signal; what it shows then is kept by src/offline.
    VitePWA({
      registerType: 'autoUpdate',
      injectRegister: 'script-defer',
      workbox: {
        globPatterns: ['**/*.{js,css,html,woff2,svg,png}'],
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/(healthz|readyz)$/],
        clientsClaim: true,
        skipWaiting: true,
        maximumFileSizeToCacheInBytes: 3_000_000,
      },
      manifest: {
        name: 'Zesty Copper',
        short_name: 'Zesty Copper',
        description: 'Finds line-voltage supply faults in heating and cooling equipment from what the meter shows.',
        start_url: '/',
        display: 'standalone',
        background_color: '#fbf7ef',
        theme_color: '#211b14',
        icons: [
          { src: '/icon-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/icon-512.png', sizes: '512x512', type: 'image/png' },
          { src: '/icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
        ],
      },
    }),
  ],
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
  build: { chunkSizeWarningLimit: 900 },
})
