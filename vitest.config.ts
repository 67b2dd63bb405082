import { defineConfig } from 'vitest/config'

const project = (name: string, include: string[], timeout: number) => ({
  // files share nothing but modules, which take seconds to load for each anew; what stands beside the projects is not theirs
  test: {
    name,
    include,
    isolate: false,
    testTimeout: timeout,
    hookTimeout: timeout,
    setupFiles: ['tests/support/property-seed.ts', 'tests/support/voice-model.ts'],
  },
})

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      project('unit', ['core/**/*.test.ts', 'web/**/*.test.ts', 'tools/**/*.test.ts'], 240_000),
      project('api', ['tests/api/**/*.test.ts'], 240_000),
      project('reference', ['tests/reference/**/*.test.ts'], 240_000),
    ],
  },
})
