<svg viewBox="0 0 200 46" class="mb-6 w-full max-w-80" aria-hidden="true">
  <line x1="8" x2="192" y1="23" y2="23" stroke="var(--ink)" stroke-width="1.6" />
  <line x1="8" x2="96" y1="23" y2="23" stroke="var(--ink)" stroke-width="4.5" />
  <line x1="96" x2="96" y1="2" y2="44" stroke="var(--lark)" stroke-width="1.5" />
  <path d="M20 23v-8M150 23v8M186 23v8" stroke="var(--ink)" stroke-width="1.6" />
  <circle cx="20" cy="12" r="4" fill="var(--ink)" />
  <circle cx="150" cy="34" r="4" fill="var(--paper)" stroke="var(--ink)" stroke-width="1.6" />
  <circle cx="186" cy="34" r="4" fill="var(--paper)" stroke="var(--ink)" stroke-width="1.6" />
</svg>
