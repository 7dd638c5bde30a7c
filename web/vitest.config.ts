import { defineConfig, mergeConfig } from 'vitest/config'
import vite from './vite.config'

export default mergeConfig(
  vite,
  defineConfig({
    test: {
      environment: 'happy-dom',
      setupFiles: ['src/testing/setup.ts'],
      maxWorkers: '100%', // what runs beside them waits a good deal
      pool: 'threads', // what one has compiled of the core is there for the others
      // Long enough for what goes through thousands of edits on a slow machine.
      testTimeout: 60_000,
      server: { deps: { inline: ['element-plus'] } },
      deps: {
        optimizer: {
          client: {
            // packages of many small files, which each test file would read anew
            enabled: true,
            include: ['element-plus', 'element-plus/es', '@lucide/vue', '@vueuse/core', 'three'],
          },
        },
      },
    },
  }),
)
