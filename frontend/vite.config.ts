import { fileURLToPath } from 'node:url'

import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

/** The page is built into the Python package, which serves it; nothing is inlined, for the CSP. */
export default defineConfig({
  base: './',
  plugins: [react(), tailwindcss()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    outDir: '../src/lean_parcel/web/static',
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    rollupOptions: {
      output: {
        manualChunks: { react: ['react', 'react-dom', 'react-router'], parts: ['radix-ui'] },
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8470' } },
})
