/** Builds the watch page as plain files that work when opened from a disk: one classic script, one style sheet with its fonts inside. */
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { build } from 'vite'
import { words } from './words/plugin.ts'

await build({
  configFile: false,
  root: 'web',
  logLevel: 'warn',
  publicDir: false,
  plugins: [words(), react(), tailwindcss()],
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: '../dist/web-folder',
    emptyOutDir: true,
    target: 'es2022',
    lib: { entry: 'watch/folder.tsx', formats: ['iife'], name: 'lectern', fileName: () => 'watch.js', cssFileName: 'watch' },
  },
})
