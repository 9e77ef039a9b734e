import { applyEdits, findNodeAtLocation, modify, parse, parseTree, type ParseError } from 'jsonc-parser';
import type { FolderView } from './folder-view.js';

/** The types that the package ships for what linked scripts import besides scripts. */
const declarations = 'loyal-anvil/imports';

/**
 * The text of a `tsconfig.json` that also names the declarations of sheets, texts, pictures and other files that linked
 * scripts import. Its comments and layout stay.
 *
 * @returns undefined if it names them, or cannot: the package is not installed in this folder, or the file is invalid or
 *   gets its `types` from another one
 */
export function withDeclarations({ list, read }: Pick<FolderView, 'list' | 'read'>): string | undefined {
  if (list('node_modules/loyal-anvil/package.json').length === 0) return undefined;
  const text = read('tsconfig.json');
  const errors: ParseError[] = [];
  const config = parse(text, errors, { allowTrailingComma: true }) as Configuration | undefined;
  if (errors.length > 0 || typeof config !== 'object') return undefined;
  const own = config.compilerOptions?.types;
  if (own === undefined ? config.extends !== undefined : !Array.isArray(own) || own.includes(declarations))
    return undefined;
  if (Array.isArray(own)) return withItem(text, own.length);
  const types = [...includedTypes({ list, read }), declarations].map((name) => JSON.stringify(name));
  return withOption(text, `"types": [${types.join(', ')}]`);
}

/** The text with one more item in the list of types. */
function withItem(text: string, index: number): string {
  const edits = modify(text, ['compilerOptions', 'types', index], declarations, { isArrayInsertion: true });
  return applyEdits(text, edits);
}

/** The text with one more compiler option after the others, on a line of its own where these have that. */
function withOption(text: string, option: string): string | undefined {
  const root = parseTree(text);
  const options = root && findNodeAtLocation(root, ['compilerOptions']);
  const owner = options ?? root;
  if (owner?.type !== 'object') return undefined;
  const added = options ? option : `"compilerOptions": { ${option} }`;
  const last = owner.children?.at(-1);
  const at = last ? last.offset + last.length : owner.offset + 1;
  const [indent] = last ? (/\r?\n[ \t]*$/.exec(text.slice(0, last.offset)) ?? [' ']) : [' '];
  return `${text.slice(0, at)}${last ? ',' : ''}${indent}${added}${last ? '' : ' '}${text.slice(at)}`;
}

interface Configuration {
  readonly extends?: unknown;
  readonly compilerOptions?: { readonly types?: unknown };
}

/** The types that the installed compiler includes without a list: up to version 5, those of all packages `@types/…`. */
function includedTypes({ list, read }: Pick<FolderView, 'list' | 'read'>): readonly string[] {
  const version = /"version":\s*"(\d+)/.exec(read('node_modules/typescript/package.json'))?.[1];
  if (version === undefined || Number(version) > 5) return [];
  return list('node_modules/@types/*/package.json').map((path) => path.split('/')[2]!);
}
