// Builds data/passwords/common.txt from the list of common passwords in @zxcvbn-ts/language-common. Run: cd data/build && npm install && node passwords.mjs
import { mkdirSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
const passwords = createRequire(import.meta.url)('@zxcvbn-ts/language-common/src/passwords.json');

// Shorter ones cannot make up most of a password of the minimum length.
const kept = [...new Set(passwords.map((p) => p.toLowerCase()))].filter((p) => p.length >= 5 && /[^0-9]/.test(p) && !/\s/.test(p)).sort();
mkdirSync('../passwords', { recursive: true });
writeFileSync('../passwords/common.txt', kept.join('\n') + '\n');
