import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import type { Plugin } from 'vite'
import { defineConfig } from 'vitest/config'

/** A page with a place for it begins its front end itself, when its picture has been painted. */
function begunByThePage(): Plugin {
  return {
    name: 'begun-by-the-page',
    apply: 'build',
    transformIndexHtml: {
      order: 'post',
      handler(html) {
        const script = /\s*<script type="module"[^>]* src="([^"]+)"><\/script>/.exec(html)
        if (!script?.[1] || !html.includes('data-start=""')) return html
        return html
          .replace(script[0], '')
          .replaceAll(/\s*<link rel="modulepreload"[^>]*>/g, '')
          .replace('data-start=""', `data-start="${script[1]}"`)
      },
    },
  }
}

export default defineConfig({
  base: '/',
  plugins: [react(), tailwindcss(), begunByThePage()],
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
  test: {
    environment: 'jsdom',
    setupFiles: ['src/testSetup.ts'],
    include: ['src/**/*.test.{ts,tsx}'],
    // How fast the machine is at the moment is not what these tests are about.
    testTimeout: 60_000,
    hookTimeout: 60_000,
  },
})
