import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // Everything is a file of ours: the content security policy allows neither inline data nor other hosts.
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, chunkSizeWarningLimit: 700 },
  server: { proxy: { '/api': { target: process.env.STRELM_SERVER ?? 'http://127.0.0.1:4870/', changeOrigin: true } } },
});
