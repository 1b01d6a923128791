import { execSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import ts from 'typescript';
import { visibleStrings, type VisibleString } from './visible-strings';

const root = fileURLToPath(new URL('../..', import.meta.url));
const read = (file: string) => readFileSync(`${root}/${file}`, 'utf8');
const files = (what: string) =>
  execSync(`git ls-files --cached --others --exclude-standard ${what}`, { cwd: root }).toString().trim().split('\n');

/** The phrases the glossary says to avoid, as one regular expression over whole words. */
function avoided(): RegExp {
  const phrases = read('docs/glossary.md')
    .split('\n')
    .filter((line) => line.startsWith('| ') && !line.startsWith('| term'))
    .flatMap((line) => [...line.split('|')[3].matchAll(/`([^`]+)`/g)].map((m) => m[1]));
  expect(phrases.length).toBeGreaterThan(100);
  const escaped = [...phrases, 'he', 'his', 'him', 'she', 'her'].map((p) => p.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
  return new RegExp(`(?<![\\w'’/.{-])(${escaped.join('|')})(?![\\w(=-])`, 'i');
}

function typeScriptStrings(source: string): VisibleString[] {
  const file = ts.createSourceFile('x.ts', source, ts.ScriptTarget.Latest, true);
  const found: VisibleString[] = [];
  const visit = (node: ts.Node) => {
    if (ts.isImportDeclaration(node) || ts.isTypeNode(node)) return;
    if (
      ts.isStringLiteral(node) ||
      ts.isNoSubstitutionTemplateLiteral(node) ||
      ts.isTemplateHead(node) ||
      ts.isTemplateMiddle(node) ||
      ts.isTemplateTail(node)
    )
      found.push({ line: file.getLineAndCharacterOfPosition(node.getStart()).line + 1, text: node.text });
    ts.forEachChild(node, visit);
  };
  visit(file);
  return found;
}

/** String literals of C#, without interpolations. SQL is recognized by its first word. */
function csharpStrings(source: string): VisibleString[] {
  const found: VisibleString[] = [];
  const code = source.replace(/\/\/[^\n]*/g, (m) => ' '.repeat(m.length)).replace(/'(\\.|[^\\'])'/g, '   ');
  for (const m of code.matchAll(/\$*@?("{3,})([\s\S]*?)\1|\$?@?"((?:\\.|\{[^{}"]*(?:"[^"]*"[^{}"]*)*\}|[^"\\])*)"/g)) {
    const text = (m[2] ?? m[3]).replace(/\{[^{}]*\}/g, ' … ').replace(/\\[nt"]/g, ' ');
    if (!/[a-z]{2} |^[A-Z]/.test(text)) continue;
    if (
      /^\s*(select|insert|update|delete|with|create|drop|copy|from|where|and|or|order|lock|set|begin|exists|case)\b/i.test(
        text,
      )
    )
      continue;
    found.push({ line: code.slice(0, m.index).split('\n').length, text: text.replace(/\s+/g, ' ') });
  }
  return found;
}

/** Files whose strings people do not read: example sentences, SQL, invented names, reasons why an endpoint is open. */
const notShown =
  /Line\/Sentences\.cs|Demo\/DemoData\.cs|Places\/(AddressLines|Gazetteer|Regions)\.cs|^src\/Store\/(?!Basics\/(ListStore|Database))|Bench\.cs|schema\.d\.ts|\.test\.ts|visible-strings/;

describe('what people read follows docs/glossary.md', () => {
  it.each([
    ['pages', 'web/src/*.svelte', visibleStrings],
    ['labels and messages of the pages', 'web/src/*.ts', typeScriptStrings],
    ['sentences, email, documents and exports of the server', 'src/*.cs', csharpStrings],
  ] as const)('%s', (_, what, strings) => {
    const rule = avoided();
    const wrong: string[] = [];
    let seen = 0;
    for (const file of files(`'${what}'`)) {
      if (notShown.test(file)) continue;
      for (const s of strings(read(file))) {
        seen++;
        const hit = rule.exec(s.text);
        if (hit) wrong.push(`${file}:${s.line}: "${hit[1]}" in "${s.text.slice(0, 120)}"`);
      }
    }
    expect(seen).toBeGreaterThan(100);
    expect(wrong).toEqual([]);
  });

  it('finds forbidden wording', () => {
    const rule = avoided();
    for (const bad of [
      'Money came in',
      'Load 2041 is called off',
      'Give it to Percy',
      'He earns $40',
      'Load the page again.',
      'A mail to him',
    ])
      expect(rule.test(bad), bad).toBe(true);
    for (const good of [
      'Record payment',
      'the email was stopped',
      'Other',
      'the receiver name',
      'Hold on 2041 overridden',
    ])
      expect(rule.test(good), good).toBe(false);
    expect(visibleStrings('<p class="papers">Hi <b title="money in">there</b></p>').map((s) => s.text)).toEqual([
      'Hi',
      'money in',
      'there',
    ]);
    expect(csharpStrings('var x = $"Load {n} is held"; // "taken back"').map((s) => s.text)).toEqual([
      'Load … is held',
    ]);
  });
});
