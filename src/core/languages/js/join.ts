import type { Program, Statement } from 'acorn';
import type { CopiedText, TextBuilder } from '../source-maps/index.js';
import { endOfScript, hashbangLength, needsSemicolon } from './script-text.js';
import { loadTimeUses } from './scopes/load-time-uses.js';
import type { ParsedScript } from './parse.js';
import { topLevelNames, type TopLevelName } from './top-level.js';

/** A script to join. */
export interface ScriptPart {
  readonly from: CopiedText;
  readonly parsed: ParsedScript;
}

/** A reason why scripts cannot be joined unchanged; `part` is the index of the script. */
export type JoinProblem =
  | { readonly kind: 'module'; readonly part: number; readonly offset: number }
  | {
      readonly kind: 'twice';
      readonly part: number;
      readonly offset: number;
      readonly name: string;
      readonly first: number;
    }
  | { readonly kind: 'strict'; readonly part: number; readonly offset: number }
  | {
      readonly kind: 'order';
      readonly part: number;
      readonly offset: number;
      readonly name: string;
      readonly declaredIn: number;
    };

/**
 * Joins scripts in order so that each behaves as on its own: statements are terminated, comments end with their line,
 * "use strict" only applies to its own script, and there is one hashbang.
 *
 * @param banner a comment to begin with
 * @returns problems: modules and duplicate declarations break the joined script; an omitted "use strict" and a use
 *   before a declaration may change it
 */
export function joinScripts(parts: readonly ScriptPart[], banner: string | undefined, out: TextBuilder): JoinProblem[] {
  const names = parts.map(({ parsed }) => topLevelNames(parsed.program));
  const problems = [...parts.flatMap(moduleProblem), ...doubleNames(names), ...usesTooEarly(parts, names)];
  const hashbang = hashbangLength(parts[0]?.from.text ?? '');
  if (parts[0] && hashbang > 0) out.copy(parts[0].from, 0, hashbang);
  if (banner !== undefined) out.add(`${banner}\n`);
  const strict = parts.map(({ parsed }) => strictDirective(parsed.program));
  // A file without statements is neither.
  const mixed = new Set(strict.filter((_, index) => !isEmpty(parts[index]!)).map((one) => one !== undefined)).size > 1;
  parts.forEach((part, index) => {
    const directive = mixed ? strict[index] : undefined;
    const wrapped = directive !== undefined && names[index]!.length === 0;
    if (directive && !wrapped) problems.push({ kind: 'strict', part: index, offset: directive.start });
    if (wrapped) out.add('(function () {\n');
    writeScript(part, directive && !wrapped ? directive : undefined, out);
    if (wrapped) out.add('}).call(this);\n');
  });
  return problems;
}

function writeScript({ from, parsed }: ScriptPart, dropped: Statement | undefined, out: TextBuilder): void {
  const { text } = from;
  const start = hashbangLength(text);
  const last = parsed.program.body.at(-1);
  const stop = endOfScript(text);
  if (stop <= start) return;
  let at = start;
  if (dropped) {
    out.copy(from, at, dropped.start);
    at = dropped.end;
  }
  if (last && needsSemicolon(last, text)) {
    out.copy(from, at, last.end);
    out.add(';', from, last.end - 1);
    at = last.end;
  }
  out.copy(from, at, Math.max(at, stop));
  out.add('\n');
}

const isEmpty = ({ parsed }: ScriptPart): boolean => parsed.program.body.length === 0;

function strictDirective({ body }: Program): Statement | undefined {
  return body.find(
    (one): one is Statement =>
      one.type === 'ExpressionStatement' && 'directive' in one && one.directive === 'use strict',
  );
}

function moduleProblem({ parsed }: ScriptPart, part: number): JoinProblem[] {
  const found = parsed.program.body.find((one) => /^(Import|Export)/.test(one.type));
  return found ? [{ kind: 'module', part, offset: found.start }] : [];
}

/** Finds duplicate names of `let`, `const` and `class`, which are errors in one script (ECMA-262, section 16.1.1). */
function doubleNames(names: readonly (readonly TopLevelName[])[]): JoinProblem[] {
  const seen = new Map<string, { part: number; lexical: boolean }>();
  return names.flatMap((own, part) => {
    const problems = own.flatMap(({ name, lexical, isInBlock, offset }): JoinProblem[] => {
      const first = isInBlock ? undefined : seen.get(name);
      return first && first.part !== part && (first.lexical || lexical)
        ? [{ kind: 'twice', part, offset, name, first: first.part }]
        : [];
    });
    for (const { name, lexical, isInBlock } of own)
      if (!isInBlock && !seen.has(name)) seen.set(name, { part, lexical });
    return problems;
  });
}

/**
 * In one script, `let`, `const` and `class` hide a global from the beginning on, and a use before the declaration throws
 * (ECMA-262, section 9.1.1.1.6); in scripts of their own, it sees the global.
 */
function usesTooEarly(parts: readonly ScriptPart[], names: readonly (readonly TopLevelName[])[]): JoinProblem[] {
  const declaredIn = new Map<string, number>();
  names.forEach((own, part) => {
    for (const { name, lexical } of own) if (lexical) declaredIn.set(name, part);
  });
  return parts.flatMap(({ from, parsed }, part): JoinProblem[] => {
    const later = [...declaredIn].filter(([name, other]) => other > part && from.text.includes(name));
    if (later.length === 0) return [];
    const uses = loadTimeUses(parsed.program);
    return later.flatMap(([name, other]): JoinProblem[] => {
      const offset = uses.get(name);
      return offset === undefined ? [] : [{ kind: 'order', part, offset, name, declaredIn: other }];
    });
  });
}
