import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vite';

// A report's page stands alone: one script and one style, the font within.
export default defineConfig({
  plugins: [svelte({ emitCss: true })],
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: '../tin_bucket/feeds/page_parts',
    emptyOutDir: true,
    assetsInlineLimit: 500_000,
    chunkSizeWarningLimit: 900,
    copyPublicDir: false,
    lib: {
      entry: 'src/reader/main.ts',
      formats: ['iife'],
      name: 'report',
      fileName: () => 'reader.js',
      cssFileName: 'reader',
    },
  },
});
