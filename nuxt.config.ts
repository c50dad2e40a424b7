import { join } from 'node:path'
import { buildThread } from '@chiraxis/pool/build-thread'
import tailwindcss from '@tailwindcss/vite'

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt'],
  css: ['~/assets/main.css'],
  components: [{ path: '~/components', pathPrefix: false }],
  app: {
    head: {
      title: 'Chiraxis',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
    },
  },
  vite: {
    plugins: [tailwindcss()],
    worker: { format: 'es' },
    build: { target: 'es2022' },
    optimizeDeps: { exclude: ['@chiraxis/core', '@chiraxis/loaders'] },
  },
  nitro: {
    typescript: { tsConfig: { compilerOptions: { noUncheckedIndexedAccess: false } } },
    esbuild: { options: { target: 'es2022' } },
    externals: { inline: ['@chiraxis/core', '@chiraxis/loaders', '@chiraxis/pool'] },
    // the program of the batch threads lies beside the server's own
    hooks: {
      compiled: async nitro => {
        await buildThread(join(nitro.options.output.serverDir, 'transfer-thread.mjs'))
      },
    },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: false } } },
  experimental: { appManifest: false },
})
