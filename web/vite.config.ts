import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants } from 'node:zlib';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import type { Plugin } from 'vite';
import { defineConfig } from 'vitest/config';

const SERVER = (process.env.STRELM_SERVER ?? 'http://127.0.0.1:4870').replace(/\/$/, '');

/** Writes each text of the build a second time, packed as small as can be: the server sends that to browsers that take it. */
function packed(): Plugin {
  return {
    name: 'packed',
    apply: 'build',
    closeBundle() {
      const dist = join(import.meta.dirname, 'dist');
      for (const name of readdirSync(dist, { recursive: true, encoding: 'utf8' })) {
        if (/\.(js|css|svg|html)$/.test(name)) {
          const text = readFileSync(join(dist, name));
          const parameters = { [constants.BROTLI_PARAM_SIZE_HINT]: text.length };
          writeFileSync(join(dist, `${name}.br`), brotliCompressSync(text, { params: parameters }));
        }
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  // Everything is a file of ours: the content security policy allows neither inline data nor other hosts.
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, chunkSizeWarningLimit: 700 },
  // A machine that does something else beside takes its time.
  test: { environment: 'happy-dom', include: ['src/**/*.test.ts'], testTimeout: 60_000 },
  // The server takes changes from its own pages only, so Vite speaks to it as one of them.
  server: { proxy: { '/api': { target: SERVER, changeOrigin: true, headers: { origin: SERVER } } } },
});
