import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  base: '/',
  plugins: [react(), tailwindcss()],
  build: {
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      input: ['index.html', 'sheet.html'],
      // Few pieces: what most pages need in two, and one for each page.
      output: {
        codeSplitting: {
          groups: [
            { name: 'viewer', test: /openseadragon|ui\/TileView/, priority: 2 },
            { name: 'packages', test: /node_modules/, priority: 1 },
            { name: 'parts', test: /src\/(ui|api|domain)\//, minShareCount: 2 },
          ],
        },
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8000', '/healthz': 'http://127.0.0.1:8000' } },
  test: { environment: 'jsdom', setupFiles: ['src/testSetup.ts'], include: ['src/**/*.test.{ts,tsx}'] },
})
