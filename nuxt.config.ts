import { velvetPreset } from './app/theme/preset'

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  devtools: { enabled: false },
  telemetry: { enabled: false },
  modules: ['@pinia/nuxt', '@primevue/nuxt-module', '@nuxt/eslint'],
  eslint: { config: { stylistic: { quotes: 'single', semi: false } } },
  css: ['~/theme/fonts.css', '~/theme/main.css'],
  components: [{ path: '~/components', pathPrefix: false }],
  primevue: { options: { ripple: false, theme: { preset: velvetPreset, options: { darkModeSelector: '.velvet', cssLayer: false } } } },
  app: { head: { title: 'Velvet Crane', htmlAttrs: { lang: 'en', class: 'velvet' }, link: [{ rel: 'icon', type: 'image/svg+xml', href: '/crane.svg' }] } },
  nitro: { esbuild: { options: { target: 'es2022' } } },
  vite: { build: { target: 'es2022', chunkSizeWarningLimit: 1500 } },
  typescript: { strict: true },
  experimental: { appManifest: false },
})
