import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, gzipSync } from 'node:zlib'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

/** Beside every text that is built the same compressed, as the server hands it out. */
function compressed(): Plugin {
  return {
    name: 'compressed',
    apply: 'build',
    writeBundle({ dir = 'dist' }) {
      for (const name of readdirSync(dir, { recursive: true, encoding: 'utf8' })) {
        if (!/\.(js|css|html|svg)$/.test(name)) continue
        const path = join(dir, name)
        const text = readFileSync(path)
        writeFileSync(`${path}.br`, brotliCompressSync(text))
        writeFileSync(`${path}.gz`, gzipSync(text, { level: 9 }))
      }
    },
  }
}

export default defineConfig({
  plugins: [react(), tailwindcss(), compressed()],
  resolve: { alias: { '@': new URL('./src', import.meta.url).pathname } },
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
  build: { target: 'es2022', assetsInlineLimit: 0 },
})
