import adapter from '@sveltejs/adapter-static';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** One page for every address: the server gives index.html, the router does the rest. */
export default {
  preprocess: vitePreprocess(),
  kit: {
    adapter: adapter({ pages: 'build', assets: 'build', fallback: 'index.html' }),
    paths: { relative: false },
    output: { preloadStrategy: 'modulepreload' },
    alias: { $ui: 'src/lib/ui' },
  },
};
