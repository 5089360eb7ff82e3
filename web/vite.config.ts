import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const SERVER = (process.env.STRELM_SERVER ?? 'http://127.0.0.1:4870').replace(/\/$/, '');

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // Everything is a file of ours: the content security policy allows neither inline data nor other hosts.
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, chunkSizeWarningLimit: 700 },
  // The server takes changes from its own pages only, so Vite speaks to it as one of them.
  server: { proxy: { '/api': { target: SERVER, changeOrigin: true, headers: { origin: SERVER } } } },
});
