/**
 * Builds the learners' page: as the server gives it, one script and one style sheet of its own, so that a slow line is asked once; and as plain
 * files, one classic script and one style sheet with its fonts inside: those that work when opened from a disk, and those of a package for learning
 * platforms.
 */
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { build, type InlineConfig } from 'vite'
import { words } from './words/plugin.ts'

const SHARED: InlineConfig = { configFile: false, root: 'web', logLevel: 'warn', publicDir: false }
const plugins = () => [words(), react(), tailwindcss()]

await build({
  ...SHARED,
  plugins: plugins(),
  build: {
    outDir: '../dist/web',
    emptyOutDir: false,
    target: 'es2023',
    assetsInlineLimit: 0,
    rolldownOptions: {
      input: 'web/watch.html',
      output: {
        // the server names the words of the learner's language in the page, so that they come with the script
        chunkFileNames: ({ facadeModuleId }) => {
          const [, language] = /virtual:words\/watch\/(\w+)$/.exec(facadeModuleId ?? '') ?? []
          return language ? `assets/watch-words-${language}-[hash].js` : 'assets/[name]-[hash].js'
        },
      },
    },
  },
})

for (const kind of ['folder', 'package'])
  await build({
    ...SHARED,
    plugins: plugins(),
    define: { 'process.env.NODE_ENV': '"production"' },
    build: {
      outDir: `../dist/web-${kind}`,
      emptyOutDir: true,
      target: 'es2022',
      lib: { entry: `watch/${kind}.tsx`, formats: ['iife'], name: 'lectern', fileName: () => 'watch.js', cssFileName: 'watch' },
    },
  })
