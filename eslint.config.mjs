import withNuxt from './.nuxt/eslint.config.mjs'

// Node 20 lacks it, and the composer behind withNuxt wants it
Object.groupBy ??= (items, key) => {
  const out = {}
  for (const i of items) (out[key(i)] ??= []).push(i)
  return out
}

export default withNuxt({
  ignores: ['dist/**', '.output/**'],
}, {
  rules: {
    '@stylistic/max-statements-per-line': 'off',
    'vue/max-attributes-per-line': 'off',
    'vue/singleline-html-element-content-newline': 'off',
    'vue/html-self-closing': 'off',
    '@stylistic/operator-linebreak': ['error', 'before', { overrides: { '=': 'after' } }],
    'vue/multi-word-component-names': 'off',
  },
})
