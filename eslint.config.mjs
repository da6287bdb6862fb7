import withNuxt from './.nuxt/eslint.config.mjs'

// Node 20 lacks it, and the composer behind withNuxt wants it
Object.groupBy ??= (items, key) => {
  const out = {}
  for (const i of items) (out[key(i)] ??= []).push(i)
  return out
}

// how lines are laid out is Prettier's affair alone
const layout = [
  'html-closing-bracket-newline',
  'html-indent',
  'html-self-closing',
  'max-attributes-per-line',
  'multiline-html-element-content-newline',
  'singleline-html-element-content-newline',
]

export default withNuxt(
  { ignores: ['dist/**', '.output/**', 'core/kernel/assembly/**', 'core/kernel/built.ts'] },
  {
    rules: {
      ...Object.fromEntries(layout.map((rule) => [`vue/${rule}`, 'off'])),
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    // a function fits a screen; a describe or it of a test holds as much as it proves
    files: ['**/*.ts', '**/*.vue', '**/*.mjs'],
    ignores: ['**/*.test.ts', '**/*.e2e.ts'],
    rules: { 'max-lines-per-function': ['error', { max: 70, skipBlankLines: true, skipComments: true }] },
  },
  // Prettier breaks code, not comments and texts
  { files: ['**/*.ts', '**/*.mjs'], rules: { 'max-len': ['error', { code: 120, ignoreRegExpLiterals: true }] } },
)
