import { parse } from 'svelte/compiler';

/** A string a person may read, with its line. */
export interface VisibleString {
  line: number;
  text: string;
}

const HIDDEN_ATTRIBUTES =
  /^(class|style|d|viewBox|fill|stroke.*|type|href|src|id|for|name|role|rel|target|autocomplete|autocapitalize|inputmode|transform|points|text-anchor|dominant-baseline|method|action|xmlns|width|height|form|look|urgency|data-.*|aria-(hidden|live|current|controls|describedby|labelledby|sort|orientation|haspopup|expanded|selected|autocomplete))$/;

interface Node {
  type: string;
  start: number;
  name?: string;
  data?: string;
  value?: unknown;
  quasis?: { start: number; value: { cooked: string } }[];
  [key: string]: unknown;
}

/** Every text, readable attribute and string literal of a Svelte component, without import paths and style classes. */
export function visibleStrings(source: string): VisibleString[] {
  const found: VisibleString[] = [];
  const add = (start: number, text: string) => {
    if (/[A-Za-z]{2}/.test(text))
      found.push({ line: source.slice(0, start).split('\n').length, text: text.replace(/\s+/g, ' ').trim() });
  };
  const visit = (node: Node | Node[] | null | undefined) => {
    if (Array.isArray(node)) {
      node.forEach(visit);
      return;
    }
    if (!node || typeof node.type !== 'string') return;
    if (
      /^(ImportDeclaration|StyleSheet|TSTypeAnnotation|TSTypeAliasDeclaration|TSInterfaceDeclaration|TSAsExpression)$/.test(
        node.type,
      )
    ) {
      if (node.type === 'TSAsExpression') visit(node.expression as Node);
      return;
    }
    if (node.type === 'Attribute' && HIDDEN_ATTRIBUTES.test(node.name ?? '')) return;
    if (node.type === 'Text') add(node.start, node.data ?? '');
    else if (node.type === 'Literal' && typeof node.value === 'string') add(node.start, node.value);
    else if (node.type === 'TemplateLiteral') for (const q of node.quasis ?? []) add(q.start, q.value.cooked);
    for (const key of Object.keys(node))
      if (key !== 'parent' && key !== 'quasis' && node[key] && typeof node[key] === 'object') visit(node[key] as Node);
  };
  visit(parse(source, { modern: true }) as unknown as Node);
  return found;
}
