import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  root: import.meta.dirname,
  base: '/console/',
  plugins: [vue()],
  define: {
    __VUE_OPTIONS_API__: 'true',
    __VUE_PROD_DEVTOOLS__: 'false',
    __VUE_PROD_HYDRATION_MISMATCH_DETAILS__: 'false',
  },
  build: {
    // Older targets lower light-dark(), and light grounds turn transparent.
    target: 'es2022',
    cssTarget: ['chrome123', 'firefox120', 'safari17.5'],
    chunkSizeWarningLimit: 1200,
  },
})
