import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const v = (name: string) => `var(--${name})`

/**
 * Components in our own colours and sizes: every role points at a variable of main.css, so that both themes are one
 * preset.
 */
const roles = {
  surface: {
    0: v('text'),
    50: v('text'),
    100: v('text'),
    200: v('quiet'),
    300: v('quiet'),
    400: v('quiet'),
    500: v('line'),
    600: v('line'),
    700: v('line'),
    800: v('raised'),
    900: v('surface'),
    950: v('ground'),
  },
  primary: {
    color: v('crane'),
    contrastColor: v('ground'),
    hoverColor: v('crane-strong'),
    activeColor: v('crane-strong'),
  },
  highlight: { background: v('raised'), focusBackground: v('raised'), color: v('text'), focusColor: v('text') },
  formField: {
    background: v('ground'),
    filledBackground: v('surface'),
    borderColor: v('line'),
    hoverBorderColor: v('quiet'),
    focusBorderColor: v('crane'),
    color: v('text'),
    placeholderColor: v('quiet'),
    iconColor: v('quiet'),
    shadow: 'none',
    disabledBackground: v('surface'),
    disabledColor: v('quiet'),
    invalidBorderColor: v('red'),
  },
  text: { color: v('text'), hoverColor: v('text'), mutedColor: v('quiet'), hoverMutedColor: v('text') },
  content: {
    background: v('surface'),
    hoverBackground: v('raised'),
    borderColor: v('line'),
    color: v('text'),
    hoverColor: v('text'),
  },
  overlay: {
    select: { background: v('raised'), borderColor: v('line'), color: v('text') },
    popover: { background: v('raised'), borderColor: v('line'), color: v('text') },
    modal: { background: v('surface'), borderColor: v('line'), color: v('text') },
  },
  list: {
    option: {
      focusBackground: v('surface'),
      selectedBackground: v('surface'),
      selectedFocusBackground: v('surface'),
      color: v('text'),
      focusColor: v('text'),
      selectedColor: v('crane'),
      selectedFocusColor: v('crane'),
    },
  },
  mask: { background: 'rgb(0 0 0 / 0.5)', color: v('quiet') },
}

const preset = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '2px', sm: '2px', md: '2px', lg: '3px', xl: '4px' } },
  semantic: {
    transitionDuration: '0.08s',
    focusRing: { width: '2px', style: 'solid', color: v('crane'), offset: '1px', shadow: 'none' },
    formField: { paddingX: '0.5rem', paddingY: '0.28rem', borderRadius: '2px' },
    colorScheme: { light: roles, dark: roles },
  },
  components: {
    button: {
      root: {
        paddingX: '0.65rem',
        paddingY: '0.26rem',
        borderRadius: '2px',
        label: { fontWeight: '550' },
        sm: { fontSize: '0.8rem', paddingX: '0.5rem', paddingY: '0.16rem' },
      },
    },
    dialog: {
      root: { borderRadius: '3px' },
      header: { padding: '0.9rem 1.1rem 0.5rem' },
      title: { fontSize: '1.15rem' },
      content: { padding: '0 1.1rem 1rem' },
    },
  },
})

export default { preset, options: { darkModeSelector: '.velvet', cssLayer: false } }
