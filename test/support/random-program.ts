import { setFlagsFromString } from 'node:v8';
import vm from 'node:vm';
import type { Page } from 'playwright-core';
import { LocalsWriter } from './random-locals.js';
import { Random } from './random.js';

/**
 * Makes a random program: nested scopes, closures, shadowing, labels, `try` and `finally`, generators, async functions,
 * classes, destructuring, functions with local variables, `var` in branches and before its declaration, `arguments`
 * aliased with parameters, iterators and conversions that log their use. It logs what happens, and always ends.
 *
 * @param seed the same seed makes the same program; those of every fourth one read names of functions
 * @param hasUsing true to include `using` declarations, which Chromium supports
 */
export function randomProgram(seed: number, hasUsing = false): string {
  return new ProgramWriter(seed, hasUsing).program();
}

/** Time limits for scripts, in milliseconds: a longer one is tried if a timeout may explain a difference. */
const scriptTimeouts = [2000, 30_000, 30_000];

/** Runs the scripts of a page in a context of their own; returns what they logged, and the kinds of errors that ended them. */
export function runProgram(scripts: readonly string[], timeout = scriptTimeouts[0]): string {
  const lines: string[] = [];
  let left = 3000;
  const log = (...values: unknown[]): void => {
    if (--left > 0) lines.push(values.map((value) => show(value, 2)).join(' '));
  };
  let fuel = 400;
  const outer = Object.fromEntries(hoisted.map((name) => [name, `outer ${name}`]));
  const context = vm.createContext({ log, fuel: () => fuel-- > 0, ...outer }, { microtaskMode: 'afterEvaluate' });
  // Minifying changes the text of functions, and error messages contain names.
  vm.runInContext(
    'Function.prototype.toString = () => "function"; Error.prototype.toString = function () { return this.name }',
    context,
  );
  // With inline caches, the engine returns different results from run to run in contexts like this one.
  setFlagsFromString('--no-use-ic');
  try {
    for (const script of [...scripts, laterScript])
      try {
        vm.runInContext(script, context, { timeout });
      } catch (error) {
        lines.push(`ends with ${nameOf(error)}`);
      }
  } finally {
    setFlagsFromString('--use-ic');
  }
  return lines.join('\n');
}

/**
 * Reports whether a program logs the same as others that run in sequence. Occasionally, the engine itself produces a
 * different result; unlike a real difference, that is not repeatable.
 */
export const sayTheSame = (before: readonly string[], after: string): boolean =>
  (before.length === 1 && before[0] === after) ||
  scriptTimeouts.some((timeout) => runProgram(before, timeout) === runProgram([after], timeout));

/** The same, in a frame of a page of Chromium. */
export async function runProgramInPage(page: Page, text: string): Promise<string> {
  return page.evaluate(async (script) => {
    const frame = document.body.appendChild(document.createElement('iframe'));
    const lines: string[] = [];
    const log = (...values: unknown[]): void => {
      if (lines.length < 3000)
        lines.push(values.map((value) => typeof value + String(Object(value) === value ? '' : value)).join(' '));
    };
    let fuel = 400;
    const { contentWindow } = frame as unknown as { contentWindow: Window & typeof globalThis };
    const open = (name: unknown): object => {
      log('open', name);
      return { name, [Symbol.dispose]: () => log('close', name) };
    };
    Object.assign(contentWindow, { log, open, fuel: () => fuel-- > 0, v1: 'outer', v2: 2, v3: '', v4: null });
    // Minifying changes the text of functions.
    contentWindow.eval('Function.prototype.toString = () => "function"');
    try {
      contentWindow.eval(script);
    } catch (error) {
      log(`ends with ${(error as Error | undefined)?.name ?? String(error)}`);
    }
    // Async functions continue after it.
    await new Promise((done) => setTimeout(done));
    frame.remove();
    return lines.join('\n');
  }, text);
}

const nameOf = (error: unknown): string => (error as Error | undefined)?.constructor?.name ?? String(error);

function show(value: unknown, depth: number): string {
  if (typeof value === 'function') return 'function';
  if (typeof value === 'symbol') return 'symbol';
  if (typeof value === 'bigint') return `${String(value)}n`;
  if (Object.is(value, -0)) return '-0';
  // Some strings double in every iteration of a loop.
  if (typeof value === 'string') return `${JSON.stringify(value.slice(0, 200))} ${String(value.length)}`;
  if (typeof value !== 'object' || value === null) return String(value);
  // Error messages depend on the engine, and contain names.
  if (/Error$/.test(nameOf(value))) return nameOf(value);
  if (depth === 0) return '…';
  const entries = Object.entries(Object.getOwnPropertyDescriptors(value)).slice(0, 8);
  return `${nameOf(value) === 'Array' ? 'Array' : 'object'}{${entries
    .map(([key, { value: inner }]) => `${key}: ${show(inner, depth - 1)}`)
    .join(', ')}}`;
}

/** Names, few enough to shadow each other. */
const names = ['alpha', 'beta', 'gamma', 'delta', 'item', 'value', 'e', 't', 'n'];

/**
 * Names of `var`, which may occur in any block; if a program does not declare them, they are globals of the context.
 */
const hoisted = ['v1', 'v2', 'v3', 'v4'];

/** Another script of the page that uses the top-level names of the program. */
const laterScript = [...names, ...hoisted]
  .map((name) => `try { log("${name}", typeof ${name} === "function" ? ${name}(1) : ${name}); } catch (e) { log(e); }`)
  .join('\n');

/** An object whose method logs whether it was called on the object. */
const teller = '({ own: 3, tell() { return this?.own } })';

interface Variable {
  readonly name: string;
  readonly kind: 'variable' | 'constant' | 'function' | 'class' | 'generator' | 'object';
}

interface Flow {
  readonly isFunction: boolean;
  readonly isGenerator: boolean;
  readonly isAsync: boolean;
  /** True if `arguments` refers to a function here. */
  readonly hasArguments: boolean;
}

const plainFlow: Flow = { isFunction: true, isGenerator: false, isAsync: false, hasArguments: true };

class ProgramWriter extends Random {
  /** Visible variables, innermost last. */
  #scopes: Variable[][] = [[]];
  #flow: Flow[] = [{ isFunction: false, isGenerator: false, isAsync: false, hasArguments: false }];
  #labels: string[] = [];
  #loops = 0;
  #depth = 0;
  #size = 0;
  readonly #readsNames: boolean;
  /** False in strict code, such as that of classes. */
  #isSloppy = true;

  constructor(
    seed: number,
    private readonly hasUsing: boolean,
  ) {
    super(seed);
    this.#readsNames = seed % 4 === 0;
  }

  program(): string {
    const strict = this.chance(0.3) ? '"use strict";\n' : '';
    this.#isSloppy = strict === '';
    const isWrapped = this.hasUsing || this.chance(0.7);
    if (isWrapped) this.#flow = [plainFlow];
    const body = this.#statements(this.between(4, 9));
    return isWrapped ? `(function () {\n${strict}${body}\n})();` : `${strict}${body}`;
  }

  #seen(...kinds: readonly Variable['kind'][]): string | undefined {
    const hidden = new Set<string>();
    const found: string[] = [];
    for (const scope of [...this.#scopes].reverse())
      for (const { name, kind } of scope) {
        if (!hidden.has(name) && kinds.includes(kind)) found.push(name);
        hidden.add(name);
      }
    return found.length === 0 ? undefined : this.pick(found);
  }

  #declare(kind: Variable['kind']): string {
    const scope = this.#scopes.at(-1)!;
    const free = names.filter((name) => scope.every((one) => one.name !== name));
    const name = free.length > 0 ? this.pick(free) : `extra${String(scope.length)}`;
    scope.push({ name, kind });
    return name;
  }

  #inScope<T>(act: () => T): T {
    this.#scopes.push([]);
    this.#depth++;
    const made = act();
    this.#depth--;
    this.#scopes.pop();
    return made;
  }

  #statements(count: number): string {
    const made: string[] = [];
    for (let left = count; left > 0; left--) made.push(this.#statement());
    return made.join('\n');
  }

  #block(): string {
    return this.#inScope(() => {
      const used = this.hasUsing && this.chance(0.5) ? this.#using() : '';
      return `{\n${used}${this.#statements(this.between(1, 3))}\n}`;
    });
  }

  #using(): string {
    const value = this.pick(['null', 'undefined', 'open(1)', 'open(2)', `open(${this.#leaf()})`]);
    const kind = this.#flow.at(-1)!.isAsync && this.chance(0.5) ? 'await using' : 'using';
    const name = this.#declare('constant');
    const first = `${kind} ${name} = ${value};\n`;
    return this.chance(0.3) ? `${first}log(${name});\n` : first;
  }

  #statement(): string {
    this.#size++;
    const isSmall = this.#depth > 4 || this.#size > 120;
    const flow = this.#flow.at(-1)!;
    const small: (() => string)[] = [
      () => `log(${this.#expression()});`,
      () => `${this.#expression()};`,
      () => this.#variable(),
      () => this.#variable(),
      () => this.#assignment(),
      () => this.#assignment(),
      () => this.#hoisted(),
      () => this.#hoisted(),
    ];
    if (this.chance(0.05))
      return this.pick([
        '/* please import this */',
        '// export default nothing',
        'log("import it from there; export {}");',
        'log(`\nexport const it = 1`);',
      ]);
    if (flow.hasArguments)
      small.push(() =>
        this.pick([
          `arguments[0] = ${this.#leaf()};`,
          `arguments[${this.#leaf()}]++;`,
          '[].shift.call(arguments);',
          '((all) => { all[0] = all[1]; })(arguments);',
          'log(arguments[0], arguments.length);',
        ]),
      );
    if (flow.isFunction)
      small.push(
        () => this.#return(),
        () => `if (${this.#expression()}) ${this.#return()}`,
      );
    if (this.#loops > 0)
      small.push(
        () => `if (${this.#expression()}) ${this.pick(['break', 'continue'])};`,
        () => (this.#labels.length > 0 ? `if (${this.#expression()}) break ${this.pick(this.#labels)};` : ';'),
      );
    if (isSmall) return this.pick(small)();
    return this.pick([
      ...small,
      () => `if (${this.#expression()}) ${this.#block()}`,
      () => `if (${this.#expression()}) ${this.#block()} else ${this.#block()}`,
      () => `if (${this.#expression()}) ${this.#simple()} else ${this.#simple()}`,
      () => this.#function(),
      () => this.#function(),
      () => this.#class(),
      () => this.#loop(),
      () => this.#loop(),
      () => this.#try(),
      () => this.#try(),
      () => this.#switch(),
      () => this.#block(),
      () => this.#labelled(),
      () => this.#destructuring(),
    ])();
  }

  /** A `var` that may not be reached, or that is read before. */
  #hoisted(): string {
    const [name, other] = [this.pick(hoisted), this.pick(hoisted)];
    const value = this.chance(0.6) ? this.#leaf() : this.#expression();
    return this.pick([
      () => `if (${this.#expression()}) var ${name} = ${value};`,
      () => `if (${this.#expression()}) { var ${name} = ${value}; } if (${name}) log(${name}); else log("no");`,
      () => `if (${this.#expression()}) var ${name} = ${value}; else var ${other} = ${this.#leaf()};`,
      () => `var ${name} = ${other}, ${other} = ${value}; log(${name});`,
      () => `log(typeof ${name}); var ${name} = ${value};`,
      () => `${this.#expression()}; var ${name} = ${value}; log(${name}, ${other});`,
      () => `for (var ${name} = ${value}; ${name} && fuel(); ) { var ${other} = ${this.#leaf()}; break; }`,
      () => `for (var ${name} of [${value}, ${this.#leaf()}]) log(${name});`,
      () => `for (var ${name} in { p: 1 }) var ${other} = ${value};`,
      () => `while (fuel() && ${this.#expression()}) { var ${name} = ${value}; break; }`,
      () => `do var ${name} = ${value}; while (${name} === 0 && fuel());`,
      () => `switch (${this.#expression()}) { case ${this.#leaf()}: var ${name} = ${value}; default: log(${name}); }`,
      () => `try { ${this.#expression()}; var ${name} = ${value}; } catch { log(${name}); }`,
      () => `out: { if (${this.#expression()}) break out; var ${name} = ${value}; }`,
      () => `{ var ${name} = ${value}; } log(${name});`,
    ])();
  }

  #simple(): string {
    return this.pick([
      () => `log(${this.#expression()});`,
      () => this.#assignment(),
      () => (this.#flow.at(-1)!.isFunction ? this.#return() : `${this.#expression()};`),
    ])();
  }

  #return(): string {
    return this.pick([
      'return;',
      `return ${this.#expression()};`,
      `throw ${this.#expression()};`,
      `return ${this.#expression()};`,
    ]);
  }

  #variable(): string {
    const value = this.#expression();
    if (this.chance(0.2)) return `var ${this.pick(names.slice(0, 3))}_ = ${value};`;
    const kind = this.pick(['let', 'let', 'const', 'var']);
    if (kind === 'var') {
      // Only names that no enclosing `let` shadows.
      const name = `v${String(this.between(1, 4))}`;
      if (this.#scopes.every((scope) => scope.every((one) => one.name !== name)))
        this.#scopes.at(-1)!.push({ name, kind: 'variable' });
      return this.chance(0.3) ? `var ${name}; ${name} = ${value};` : `var ${name} = ${value};`;
    }
    if (this.chance(0.2)) {
      const other = this.#object();
      return `${kind} ${this.#declare('object')} = ${other};`;
    }
    const name = this.#declare(kind === 'const' ? 'constant' : 'variable');
    return kind === 'let' && this.chance(0.2) ? `let ${name};` : `${kind} ${name} = ${value};`;
  }

  #assignment(): string {
    const name = this.#seen('variable');
    if (name === undefined) return `log(${this.#expression()});`;
    return this.pick([
      () => `${name} = ${this.#expression()};`,
      () => `${name} = ${name} ${this.pick(['+', '-', '*', '|'])} ${this.#expression()};`,
      () => `${name} ${this.pick(['+=', '-=', '||=', '&&=', '??='])} ${this.#expression()};`,
      () => `${name}${this.pick(['++', '--'])};`,
      () => `${name} = ${this.#expression()}; if (${name}) log(${name});`,
      () => `if (${this.#expression()}) ${name} = ${this.#expression()}; else ${name} = ${this.#expression()};`,
    ])();
  }

  #parameters(): string {
    return Array.from({ length: this.between(0, 3) }, () => {
      const isPlain = this.chance(0.75);
      const value = isPlain ? '' : this.#leaf();
      const name = this.#declare('variable');
      return isPlain ? name : `${name} = ${value}`;
    }).join(', ');
  }

  #body(flow: Flow): string {
    const [loops, labels] = [this.#loops, this.#labels];
    this.#loops = 0;
    this.#labels = [];
    this.#flow.push(flow);
    const used = this.hasUsing && this.chance(0.4) ? this.#using() : '';
    const made = used + this.#statements(this.between(1, 4));
    this.#flow.pop();
    this.#loops = loops;
    this.#labels = labels;
    return `{\n${made}\n}`;
  }

  #function(): string {
    const isGenerator = this.chance(0.2);
    const isAsync = !isGenerator && this.chance(0.15);
    // It is declared before its body is written, so that the body may call it; the guard limits the recursion.
    const name = this.#declare(isGenerator ? 'generator' : 'function');
    const made = this.#inScope(() => {
      const parameters = this.#parameters();
      const body = this.#body({ isFunction: true, isGenerator, isAsync, hasArguments: true });
      const guarded = `{\nif (!fuel()) return;\n${body.slice(2)}`;
      // The returned promise is ignored.
      return isAsync
        ? `(...list) {\ntry ${guarded} catch (error) { log(typeof error); }\n}`
        : `(${parameters}) ${guarded}`;
    });
    return `${isAsync ? 'async ' : ''}function${isGenerator ? '*' : ''} ${name}${made}`;
  }

  #class(): string {
    const base = this.chance(0.3) ? this.#seen('class') : undefined;
    const extended = base === undefined ? '' : ` extends ${base}`;
    const isSloppy = this.#isSloppy;
    this.#isSloppy = false;
    const members = this.#inScope(() => {
      const method = this.#inScope(() => `(${this.#parameters()}) ${this.#body(plainFlow)}`);
      const field = this.#leaf();
      return [
        `kept = ${field};`,
        '#secret = 1;',
        `static made = ${this.#leaf()};`,
        `method${method}`,
        `get secret() { log("get"); return this.#secret; }`,
        this.chance(0.4)
          ? `constructor() { ${base === undefined ? '' : 'super();'} this.first = ${this.#leaf()}; log("made"); }`
          : '',
      ].join('\n');
    });
    this.#isSloppy = isSloppy;
    return `class ${this.#declare('class')}${extended} {\n${members}\n}`;
  }

  #loop(): string {
    this.#loops++;
    const made = this.pick([
      () =>
        this.#inScope(() => {
          const name = this.#declare('variable');
          return `for (let ${name} = 0, turns = 0; ${name} < ${String(this.between(1, 3))} && turns++ < 5; ${name}++) ${this.#block()}`;
        }),
      () =>
        this.#inScope(() => {
          const list = this.#leaf();
          const name = this.#declare('constant');
          if (this.hasUsing && this.chance(0.5)) return `for (using ${name} of [open(3), null]) ${this.#block()}`;
          return `for (const ${name} of [${list}, 2]) ${this.#block()}`;
        }),
      () => this.#inScope(() => `for (var key_ in { p: 1, q: 2 }) { log(key_); ${this.#block()} }`),
      () => this.#inScope(() => `{ let turns = 0; while (turns++ < 2) ${this.#block()} }`),
      () => this.#inScope(() => `{ let turns = 0; do ${this.#block()} while (++turns < 2 && ${this.#expression()}); }`),
      () => this.#inScope(() => `{ let turns = 0; for (;;) { if (turns++ > 2) break; ${this.#block()} } }`),
    ])();
    this.#loops--;
    return made;
  }

  #labelled(): string {
    const label = `label${String(this.#labels.length)}`;
    this.#labels.push(label);
    const made = this.chance(0.5) ? this.#loop() : this.#block();
    this.#labels.pop();
    return `${label}: ${made}`;
  }

  #try(): string {
    const tried = this.#block();
    const caught = this.#inScope(() => {
      const name = this.#declare('constant');
      return `catch (${name}) {\nlog(typeof ${name});\n${this.#statements(1)}\n}`;
    });
    const last = ` finally ${this.#block()}`;
    return this.pick([
      `try ${tried} ${caught}`,
      `try ${tried} ${caught}${last}`,
      `try { try ${tried}${last} } ${caught}`,
    ]);
  }

  #switch(): string {
    this.#loops++;
    // `continue` needs a loop around it.
    const made = this.#inScope(
      () =>
        `for (let once = 0; once < 1; once++) switch (${this.#expression()}) {\ncase ${this.#leaf()}: ${this.#statement()} break;\ncase ${this.#leaf()}: log("falls");\ndefault: ${this.#assignment()}\n}`,
    );
    this.#loops--;
    return made;
  }

  #destructuring(): string {
    const source = this.chance(0.5) ? this.#object() : `[${this.#leaf()}, ${this.#leaf()}, 3]`;
    if (source.startsWith('[')) {
      const value = this.#leaf();
      const [one, other] = [this.#declare('variable'), this.#declare('variable')];
      return `let [${one}, ${other} = ${value}] = ${source};`;
    }
    const [one, other] = [this.#declare('variable'), this.#declare('variable')];
    return `let { p: ${one}, ...${other} } = ${source};`;
  }

  #object(): string {
    return this.pick([
      `{ p: ${this.#leaf()}, q: ${this.#leaf()} }`,
      `{ get p() { log("p"); return ${this.#leaf()}; }, q: 2 }`,
      `{ p: 1, set q(value) { log("q", value); }, m() { return this.p; } }`,
      `{ valueOf() { log("valueOf"); return 3; }, toString() { log("toString"); return "s"; }, p: 0 }`,
      `{ [Symbol.toPrimitive](hint) { log(hint); return ${this.#leaf()}; }, p: 1, q: 2 }`,
      `{ *[Symbol.iterator]() { log("first"); yield ${this.#leaf()}; log("second"); yield 2; }, p: 1 }`,
    ]);
  }

  #leaf(): string {
    const name = this.#seen('variable', 'constant');
    if (this.chance(0.12)) return this.pick(hoisted);
    return this.pick([
      ...(name === undefined ? [] : [name, name, name]),
      ...[
        '0',
        '1',
        '2.5',
        '"text"',
        '""',
        'true',
        'false',
        'null',
        'undefined',
        '-1',
        '[1]',
        '`t`',
        'NaN',
        '1e3',
        '10n',
        String.raw`"one\ntwo\n\`three"`,
      ],
    ]);
  }

  #expression(): string {
    this.#depth++;
    const made = this.#depth > 8 ? this.#leaf() : this.pick(this.#expressions())();
    this.#depth--;
    return made;
  }

  #expressions(): (() => string)[] {
    const part = (): string => this.#expression();
    const object = this.#seen('object');
    const called = this.#seen('function');
    const generator = this.#seen('generator');
    const made = this.#seen('class');
    const variable = this.#seen('variable');
    const flow = this.#flow.at(-1)!;
    const all: (() => string)[] = [
      () => this.#leaf(),
      () => this.#leaf(),
      () => this.#leaf(),
      () => `(${part()} ${this.pick(['+', '-', '*', '<', '>=', '==', '!=', '===', '!==', '&', '%'])} ${part()})`,
      () => `(${part()} ${this.pick(['&&', '||', '&&', '||', '??'])} ${part()})`,
      () => `(${part()} ? ${part()} : ${part()})`,
      () => `(${this.pick(['!', '!!', 'typeof ', 'void ', '!'])}${part()})`,
      () => `(${part()}, ${part()})`,
      () => `\`<\${${part()}}>\``,
      () => `log(${part()})`,
      () => this.#arrow(),
      () => this.#called(),
      () => `(${this.pick(['true', 'false || true', part()])} ? ${teller}.tell : ${teller}['tell'])(${part()})`,
      () => `(${this.pick(['0', 'null', part()])}, ${teller}.tell)\`t\``,
      () => this.#prototype(),
      () => this.#reference(),
      () => this.#odd(),
      () => this.#odd(),
    ];
    if (this.#size < 60) all.push(() => `(${new LocalsWriter(this).function()})(${part()}, ${part()})`);
    if (object !== undefined)
      all.push(
        () => `${object}.${this.pick(['p', 'q', 'p', 'none'])}`,
        () => `(${object}.p = ${part()})`,
        () => `${object}?.p`,
        () => `(${object} ${this.pick(['+', '<', '=='])} ${part()})`,
        () => `[...${object}]`,
        () => `(([first]) => first)(${object})`,
        () => `(${part()} instanceof ${object})`,
        () => `delete (${this.pick(['true && ', 'false || ', ''])}${object}.q)`,
        () => `(${part()} ? ${object}.p = ${part()} : ${object}.p = ${part()})`,
      );
    if (called !== undefined)
      all.push(
        () => `${called}(${part()}, ${part()})`,
        () => `${called}(${part()})`,
        () => `(${part()} ? ${called}(${part()}) : ${called}(${part()}))`,
      );
    if (generator !== undefined) all.push(() => `[...${generator}(${part()})]`);
    if (made !== undefined)
      all.push(
        () => `new ${made}().kept`,
        () => `new ${made}().method(${part()})`,
        () => `new ${made}().secret`,
      );
    if (variable !== undefined)
      all.push(
        () => `(${variable} = ${part()})`,
        () => `${variable}${this.pick(['++', '--'])}`,
        () => `(${variable} === null || ${variable} === undefined ? ${part()} : ${variable})`,
        () => `(${variable} !== null && ${variable} !== undefined ? ${variable}.p : undefined)`,
        () => `(${variable} === null || ${variable} === undefined ? void 0 : ${variable}['q']?.[${part()}])`,
        () => `(typeof ${variable} === "undefined")`,
        () => `(${variable} += ${part()})`,
      );
    if (flow.isGenerator) all.push(() => `(yield ${part()})`);
    if (flow.isAsync) all.push(() => `(await ${part()})`);
    return all;
  }

  /** An object literal that sets its prototype, or that has a property of that name (ECMA-262, section B.3.1). */
  #prototype(): string {
    const made = this.pick([
      '{ __proto__ }',
      '{ __proto__: __proto__ }',
      '{ ["__proto__"]: __proto__ }',
      '{ "__proto__": __proto__ }',
      '{ __proto__() {} }',
      '{ p: 2, __proto__, q: __proto__ }',
    ]);
    const body = this.pick([`Object.keys(${made})`, `(${made}).p`, `(({ __proto__ }) => [__proto__])(${made})`]);
    return `((__proto__) => ${body})(${this.chance(0.5) ? '{ p: 1 }' : this.#leaf()})`;
  }

  /** A returned expression that is not a reference, since the effect of a reference is more than its value. */
  #reference(): string {
    return this.pick([
      `(() => ${teller}.tell)()(${this.#leaf()})`,
      `((object) => { for (; fuel(); ) break; return object.tell; })(${teller})(${this.#leaf()})`,
      `(() => ${teller}.tell)()\`t\``,
      `typeof (() => nothing)()`,
      `delete (() => ${teller}.own)()`,
      `(function own() { own = ${this.#leaf()}; return own; })()`,
      `(function own() { (() => { own = ${this.#leaf()}; })(); log(typeof own); return own && 1; })()`,
      `(() => eval)()("typeof ${this.pick(names)}")`,
    ]);
  }

  /** Names that are keywords elsewhere, reads in dead zones, variables beside parameters, and functions without names. */
  #odd(): string {
    const leaf = this.#leaf();
    const read = this.pick(['(r, 1)', 'typeof r', `(r && ${leaf})`, `(${leaf} ?? r)`, 'void r']);
    // These words are reserved in strict code, and in functions of their kind.
    const isFree = this.#isSloppy && !this.#flow.some((one) => one.isGenerator || one.isAsync);
    if (isFree && this.chance(0.2)) return this.#keywordNamed();
    if (this.#readsNames && this.chance(0.3)) return this.#functionName();
    return this.pick([
      `(() => { ${this.pick([
        `let { r = ${read} } = {}; return r;`,
        `let [r = ${read}] = []; return r;`,
        `const { [${read}]: r } = { a: 1 }; return r;`,
        `for (let r of (${read}, [1])) log(r);`,
        `for (const r in (${read}, { a: 1 })) log(r);`,
        `let r = ${read}; return r;`,
        `return ((a = r, r = ${leaf}) => a)();`,
        `return ((r = ${read}) => r)();`,
        `return (({ r = ${read} } = {}) => r)();`,
        `return typeof (class r extends (${read}, Object) {});`,
        `return typeof (class r { static [${read}] = 1; });`,
        `class r extends (${read}, Object) {}`,
      ])} })()`,
      `(function (a, b = () => ${this.pick(['a', '(a = 5)', 'typeof a'])}) { ${this.pick([
        'var a = a;',
        'var a;',
        'var a = 3;',
        'function a() {}',
        'for (var a of [7]) log(a);',
        '{ var a = 2; }',
      ])} ${this.pick(['a = 10;', '', 'a++;'])} log(b()); return typeof a; })(${leaf})`,
      `(function ({ a }, ...b) { ${this.pick(['var a = a;', 'var b;', 'var a; var b = 3;'])} return [a, b]; })({ a: ${leaf} })`,
    ]);
  }

  /** The name of an anonymous function or class, which places that it passes may give it. */
  #functionName(): string {
    const nameless = this.pick(['function () {}', '() => 1', 'class {}']);
    return `((it) => it.name)(${this.pick([
      `(() => { let named = true ? ${nameless} : 0; return named; })()`,
      `(() => { let named = (0, ${nameless}); return named; })()`,
      `(() => { let named = (() => ${nameless})(); return named; })()`,
      `(() => { let named = false || (${nameless}); return named; })()`,
      `(() => { let named = null ?? (${nameless}); return named; })()`,
      `(() => { let named; named = 1 && (${nameless}); return named; })()`,
      `((named = ${this.pick(['', '1 && '])}(${nameless})) => named)()`,
      `(() => { const made = ${nameless}, named = made; return named; })()`,
      `(() => { const { named = true && (${nameless}) } = {}; return named; })()`,
      `({ named: true ? ${nameless} : 0 }).named`,
      `(() => { let named; return (named = ${nameless}); })()`,
    ])})`;
  }

  /** A name that is a keyword in functions of another kind, beside and in such functions. */
  #keywordNamed(): string {
    const word = this.pick(['yield', 'await']);
    const [start, end] =
      word === 'yield'
        ? ['[...(function* () { yield ', ' })()]']
        : ['(async () => { try { log(', ') } catch { log(3) } })() && 1'];
    return `((${word}) => ${start}${this.pick([
      `(() => ${word})()`,
      `((x) => ${word} + x)(2)`,
      `(function (x) { return ${word} + x; })(1)`,
      `((x) => { let y = x; y += ${word}; return y; })(2)`,
    ])}${end})(${this.#leaf()})`;
  }

  #arrow(): string {
    return this.#inScope(() => {
      const parameters = this.#parameters();
      const body = this.chance(0.5)
        ? `(${this.#leaf()})`
        : this.#body({ ...plainFlow, hasArguments: this.#flow.at(-1)!.hasArguments });
      return `((${parameters}) => ${body})(${this.#leaf()})`;
    });
  }

  #called(): string {
    return this.#inScope(() => {
      const parameters = this.#parameters();
      const body = this.#body(plainFlow);
      const argument = this.chance(0.2) ? `\nlog(arguments.length);` : '';
      return `(function (${parameters}) {${argument}\n${body.slice(2)})(${this.#leaf()}, ${this.#leaf()})`;
    });
  }
}
