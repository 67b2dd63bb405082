import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { words } from './tools/words/plugin.ts'

export default defineConfig({
  root: 'web',
  plugins: [words(), react(), tailwindcss()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    target: 'es2023',
    assetsInlineLimit: 0,
    // the learners' page is built by itself: tools/build-watch-pages.ts
    rolldownOptions: { input: 'web/index.html' },
  },
  server: { port: 4869, proxy: { '/api': 'http://localhost:4870', '^/watch/[^/]+/(edition|files)': 'http://localhost:4870' } },
})
