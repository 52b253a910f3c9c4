import '@fontsource-variable/literata'
import '@fontsource-variable/noto-naskh-arabic'
import 'element-plus/dist/index.css'
import 'element-plus/theme-chalk/dark/css-vars.css'
import './styles/tokens.css'
import './styles/base.css'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'

const dark = matchMedia('(prefers-color-scheme: dark)')
const follow = () => document.documentElement.classList.toggle('dark', dark.matches)
dark.addEventListener('change', follow)
follow()

// Browsers make no drag events from touches. A finger that rests drags; one that moves at once scrolls.
if (navigator.maxTouchPoints > 0)
  void import('@dragdroptouch/drag-drop-touch').then(({ enableDragDropTouch }) =>
    enableDragDropTouch(document, document, { isPressHoldMode: true }),
  )

createApp(App).use(router).mount('#app')
