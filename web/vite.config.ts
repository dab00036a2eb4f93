import vue from '@vitejs/plugin-vue'
import crawlers from 'crawler-user-agents'
import { defineConfig } from 'vite'

// Three programs with one build: staff, help centre and chat; and the line that
// embeds the chat. The server finds them by the manifest.
export default defineConfig({
  plugins: [
    vue(),
    {
      // The server knows crawlers by this list, which is built into it.
      name: 'crawlers',
      generateBundle() {
        const patterns = crawlers.map((c) => c.pattern)
        this.emitFile({ type: 'asset', fileName: 'crawlers.json', source: JSON.stringify(patterns) })
      },
    },
  ],
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    manifest: true,
    target: 'es2022',
    chunkSizeWarningLimit: 900,
    rollupOptions: {
      input: {
        staff: 'src/staff/main.ts',
        help: 'src/help/main.ts',
        chat: 'src/chat/main.ts',
        embed: 'src/chat/embed.ts',
      },
    },
  },
})
