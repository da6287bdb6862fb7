import { fileURLToPath } from 'node:url'

/** Everything comes from here; the page's first script and PrimeVue's styles stand in the page itself. */
const policy = [
  "default-src 'self'",
  "script-src 'self' 'unsafe-inline'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "font-src 'self' data:",
  "media-src 'self' blob:",
  "worker-src 'self' blob:",
  "object-src 'none'",
  "base-uri 'none'",
  "frame-ancestors 'none'",
].join('; ')

export default defineNuxtConfig({
  modules: ['@pinia/nuxt', '@primevue/nuxt-module', '@nuxt/eslint'],
  ssr: false,
  components: [{ path: '~/components', pathPrefix: false }],
  devtools: { enabled: false },
  app: {
    head: {
      title: 'Velvet Crane',
      htmlAttrs: { lang: 'en', class: 'velvet' },
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/crane.svg' }],
    },
  },
  css: ['~/theme/fonts.css', '~/theme/main.css'],
  experimental: { appManifest: false },
  compatibilityDate: '2026-11-01',
  nitro: {
    esbuild: { options: { target: 'es2022' } },
    // no page of another origin may frame this one, and nothing here is taken for what it is not
    routeRules: {
      '/**': {
        headers: {
          'content-security-policy': policy,
          'x-content-type-options': 'nosniff',
          'referrer-policy': 'same-origin',
        },
      },
    },
  },
  vite: { build: { target: 'es2022', chunkSizeWarningLimit: 1500 } },
  // the development server asks for an entry of server rendering also where nothing is rendered there
  $development: { vite: { environments: { ssr: { build: { rollupOptions: { input: './app/app.vue' } } } } } },
  typescript: { strict: true },
  telemetry: { enabled: false },
  eslint: { config: { stylistic: false } },
  // dialogs come and go at once: one that slides in takes the focus when it has arrived, out of the field being typed
  // in by then
  primevue: {
    // the styles of every component named here stand in the page
    components: { include: ['Button', 'Dialog', 'InputText', 'ProgressBar'] },
    directives: { exclude: '*' },
    // read by the page's script: among the options it would stand in every page
    importTheme: { from: fileURLToPath(new URL('./app/theme/preset', import.meta.url)), as: 'velvetTheme' },
    options: { ripple: false, pt: { dialog: { transition: { css: false } } } },
  },
})
