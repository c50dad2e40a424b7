import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { buildChild } from '@chiraxis/pool/build-child'
import tailwindcss from '@tailwindcss/vite'

/** Names what the computation is made of. */
function hashOfSources(...folders: string[]): string {
  const hash = createHash('sha256').update(readFileSync('package-lock.json'))
  for (const folder of folders)
    for (const name of readdirSync(folder, { recursive: true }).map(String).sort())
      if (name.endsWith('.ts')) hash.update(name).update(readFileSync(join(folder, name)))
  return hash.digest('hex').slice(0, 16)
}

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
      // the policy forbids eval; schemas must know before the first of them is made
      script: [{ innerHTML: 'globalThis.__zod_globalConfig={jitless:true}' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }],
    },
  },
  vite: {
    plugins: [tailwindcss()],
    worker: { format: 'es' },
    // results kept by the browser are only trusted by the program that worked them out
    define: { __CHIRAXIS_PROGRAM__: JSON.stringify(hashOfSources('core/src', 'loaders/src')) },
    build: { target: 'es2022' },
    optimizeDeps: { exclude: ['@chiraxis/core', '@chiraxis/loaders'] },
  },
  nitro: {
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
