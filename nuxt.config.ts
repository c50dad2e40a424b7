import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { buildChild } from '@chiraxis/pool/build-child'
import tailwindcss from '@tailwindcss/vite'
import { singleIcons } from './scripts/single-icons.mjs'

/** Names what the computation is made of. */
function hashOfSources(...folders: string[]): string {
  const hash = createHash('sha256').update(readFileSync('package-lock.json'))
  for (const folder of folders)
    for (const name of readdirSync(folder, { recursive: true }).map(String).sort())
      if (/\.(ts|vue|css|md)$/.test(name)) hash.update(name).update(readFileSync(join(folder, name)))
  return hash.digest('hex').slice(0, 16)
}

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  ssr: false,
  pages: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ['@pinia/nuxt', '@vite-pwa/nuxt'],
  // works without its server after the first visit: everything is fetched in the background, and a new version waits to be asked for
  pwa: {
    registerType: 'prompt',
    manifest: {
      name: 'Chiraxis',
      short_name: 'Chiraxis',
      description: 'Rig characters and carry motion onto them',
      display: 'standalone',
      background_color: '#f5f1e8',
      theme_color: '#f5f1e8',
      icons: [{ src: '/mark.svg', sizes: 'any', type: 'image/svg+xml' }],
    },
    workbox: {
      clientsClaim: true,
      globPatterns: ['**/*.{js,css,svg,woff2,wasm}', 'demo/*.{json,glb,bvh,ply}'],
      globIgnores: ['demo/truth.json', 'demo/pim-dense.glb', 'demo/*.vrma'],
      maximumFileSizeToCacheInBytes: 20_000_000,
      // the page itself is written by the server; it is another one whenever anything it loads is
      additionalManifestEntries: [{ url: '/', revision: hashOfSources('app', 'core/src', 'loaders/src', 'docs') }],
      navigateFallback: '/',
      navigateFallbackDenylist: [/^\/api\//],
      ignoreURLParametersMatching: [/^sample$/],
    },
    client: { installPrompt: false },
  },
  css: ['~/assets/main.css'],
  components: [{ path: '~/components', pathPrefix: false }],
  app: {
    head: {
      title: 'Chiraxis',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      // the policy forbids eval; schemas must know before the first of them is made
      script: [{ innerHTML: 'globalThis.__zod_globalConfig={jitless:true}' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
    },
  },
  vite: {
    plugins: [singleIcons(), tailwindcss()],
    worker: { format: 'es' },
    // results kept by the browser are only trusted by the program that worked them out
    define: { __CHIRAXIS_PROGRAM__: JSON.stringify(hashOfSources('core/src', 'loaders/src')) },
    build: { target: 'es2022' },
    optimizeDeps: { exclude: ['@chiraxis/core', '@chiraxis/loaders'] },
  },
  hooks: {
    // what is loaded late is not fetched ahead of the first picture; the service worker brings it in the background
    'build:manifest': manifest => {
      for (const part of Object.values(manifest)) {
        part.prefetch = false
        part.dynamicImports = []
      }
    },
  },
  nitro: {
    // sent as small as the browser takes it
    compressPublicAssets: { gzip: true, brotli: process.env.CHIRAXIS_QUICK_BUILD !== '1' },
    typescript: { tsConfig: { compilerOptions: { noUncheckedIndexedAccess: false } } },
    esbuild: { options: { target: 'es2022' } },
    externals: { inline: ['@chiraxis/core', '@chiraxis/loaders', '@chiraxis/pool'] },
    // the program of the job children lies beside the server's own
    hooks: {
      compiled: async nitro => {
        await buildChild(join(nitro.options.output.serverDir, 'job-child.mjs'))
      },
    },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: false } } },
  experimental: { appManifest: false },
})
