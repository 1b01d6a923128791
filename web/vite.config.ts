import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwindcss(), sveltekit()],
  server: { proxy: { '/api': process.env.LARK_URL ?? 'http://127.0.0.1:4180' } },
  // Fonts and pictures stay files: the policy of the pages allows no data: fonts.
  build: { assetsInlineLimit: 0 },
  test: {
    // Reading every page for the glossary takes seconds on a busy machine.
    testTimeout: 60_000,
    include: ['src/**/*.test.ts'],
  },
} as Parameters<typeof defineConfig>[0]);
