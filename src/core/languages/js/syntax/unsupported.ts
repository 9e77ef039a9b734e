import type { AnyNode, Literal } from 'acorn';
import { compare, parseTarget } from '../../targets/targets.js';
import { ScriptSyntaxError, parseScript } from '../parse.js';
import { eachChild, isFunction } from '../tree/children.js';
import { lastingSyntax, type LastingFeature } from './levels.js';

/** Syntax in a script that a target browser does not know, and that cannot be compiled to older syntax. */
export interface UnsupportedSyntax {
  /** True for import attributes, which linking resolves. */
  readonly isAttribute: boolean;
  /** The name of the syntax, as the beginning of a sentence. */
  readonly what: string;
  /** The first target browser that does not know it, as Browserslist names it. */
  readonly browser: string;
  /** 0-based offset of the first occurrence. */
  readonly offset: number;
}

/** The name of each feature in messages. */
const names: Readonly<Record<Exclude<LastingFeature, 'modules'>, string>> = {
  'top-level await': 'Top-level `await`',
  bigint: 'A BigInt literal',
  'import()': '`import()`',
  'import.meta': '`import.meta`',
  'export namespace': '`export * as`',
  'import attributes': 'An import attribute',
  'look-behind': 'A lookbehind assertion in a regular expression',
  'named group': 'A named capturing group in a regular expression',
  'unicode property': 'A Unicode property escape in a regular expression',
  modifier: 'A modifier in a regular expression',
  'flag y': 'The flag `y` of a regular expression',
  'flag u': 'The flag `u` of a regular expression',
  'flag s': 'The flag `s` of a regular expression',
  'flag d': 'The flag `d` of a regular expression',
  'flag v': 'The flag `v` of a regular expression',
};

/**
 * True if a text may contain any of these: a search is cheaper than parsing. Flags follow a slash that ends a regular
 * expression; the second slash of a line comment does not.
 */
const mayHold =
  /\bawait\b|\dn\b|\bimport\s*[(.]|\bexport\s*\*\s*as\b|\bwith\s*\{|\(\?(<|[ims]*-?[ims]*:)|\\p\{|[^/\s]\/[gim]*[dsuvy][dgimsuvy]*(?![\w$])/i;

/**
 * Finds syntax that target browsers do not support in a script that has been compiled.
 *
 * @param browsers resolved target browsers, such as `safari 17.4`
 * @returns each kind once, in the order of the text
 */
export function unsupportedSyntax(text: string, browsers: readonly string[]): UnsupportedSyntax[] {
  if (!mayHold.test(text)) return [];
  const found = new Map<Exclude<LastingFeature, 'modules'>, number>();
  let isModule: boolean;
  try {
    const read = parseScript(text);
    isModule = read.isModule;
    visit(read.program, false, (feature, offset) => {
      if (!found.has(feature)) found.set(feature, offset);
    });
  } catch (error) {
    // The step that parses it next reports the error.
    if (error instanceof ScriptSyntaxError) return [];
    throw error;
  }
  return [...found].flatMap(([feature, offset]): UnsupportedSyntax[] => {
    const browser = browsers.find(
      // A browser that does not support modules ignores module scripts.
      (one) => !knows(one, feature) && (!isModule || knows(one, 'modules')),
    );
    return browser === undefined
      ? []
      : [{ what: names[feature], isAttribute: feature === 'import attributes', browser, offset }];
  });
}

function knows(browser: string, feature: LastingFeature): boolean {
  const target = parseTarget(browser);
  if (!target) return true;
  const since = lastingSyntax[feature][target.browser];
  return since !== undefined && compare(target.version, since) >= 0;
}

type ReportFeature = (feature: Exclude<LastingFeature, 'modules'>, offset: number) => void;

function visit(node: AnyNode, isInFunction: boolean, report: ReportFeature): void {
  switch (node.type) {
    case 'AwaitExpression':
      if (!isInFunction) report('top-level await', node.start);
      break;
    case 'ForOfStatement':
      if (node.await && !isInFunction) report('top-level await', node.start);
      break;
    case 'ImportExpression':
      report('import()', node.start);
      break;
    case 'MetaProperty':
      if (node.meta.name === 'import') report('import.meta', node.start);
      break;
    case 'ExportAllDeclaration':
      if (node.exported) report('export namespace', node.start);
      if (node.attributes.length > 0) report('import attributes', node.start);
      break;
    case 'ImportDeclaration':
    case 'ExportNamedDeclaration':
      if (node.attributes.length > 0) report('import attributes', node.start);
      break;
    case 'Literal':
      if (node.bigint !== undefined && node.bigint !== null) report('bigint', node.start);
      if (node.regex) ofRegExp(node.regex, node.start, report);
      break;
    default:
  }
  eachChild(node, (child) => visit(child, isInFunction || isFunction(node), report));
}

function ofRegExp({ pattern, flags }: NonNullable<Literal['regex']>, start: number, report: ReportFeature): void {
  // Escaped characters and character classes do not open a group.
  const groups = pattern.replace(/\\[^pP]|\[(?:\\[^]|[^\]\\])*\]/g, '');
  if (/\(\?<[=!]/.test(groups)) report('look-behind', start);
  if (/\(\?<[^=!]/.test(groups)) report('named group', start);
  if (/\(\?[ims]+(-[ims]*)?:|\(\?-[ims]+:/.test(groups)) report('modifier', start);
  if (/[uv]/.test(flags) && /\\p\{/i.test(pattern)) report('unicode property', start);
  for (const flag of ['y', 'u', 's', 'd', 'v'] as const) if (flags.includes(flag)) report(`flag ${flag}`, start);
}
