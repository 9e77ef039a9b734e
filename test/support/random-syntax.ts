import { Random } from './random.js';

/** What a program uses that not every engine runs as written. */
export interface RandomSyntax {
  readonly text: string;
  /** True if it has `using` declarations or decorators: only compiled, an engine without them runs it. */
  readonly isNewest: boolean;
}

/**
 * Makes a random program of newer syntax: classes with private and static members, accessors, static blocks and `super` in
 * every position, `new.target`, generators and asynchronous functions, default values that need temporaries, patterns,
 * loops with closures, optional chains, tagged templates, `using` and decorators. It logs the order of evaluation.
 *
 * @param seed the same seed makes the same program
 * @param isOldest true to leave out what docs/older-browsers.md lists for browsers without classes
 */
export function randomSyntax(seed: number, isOldest = false): RandomSyntax {
  const writer = new SyntaxWriter(seed, isOldest);
  return { text: writer.program(), isNewest: writer.isNewest };
}

/** Values that log how they are used: methods, accessors, iterables that tell when they are closed, and disposable ones. */
const prelude = `var t = function (n, v) { log("#" + n); return v; };
var o = {
  x: 1, y: null, z: { w: 4, f(a) { log("f", a, this === o.z); return this; }, u: undefined },
  get g() { log("get"); return this.x; }, set g(v) { log("set", v); this.x = v; },
  list: [1, [2, 3], { k: 5 }], none: undefined, m(...all) { log("m", this === o, all.join("|")); return all[0]; },
  tag(parts, ...all) { return parts.join("_") + parts.raw.join("/") + all.join("|"); }
};
var iter = function (n) { return { [Symbol.iterator]() { let i = 0; return {
  next() { log("next", i); return { value: i, done: i++ >= n }; }, return() { log("return"); return {}; } }; } }; };
var open = function (n) { return { n, [Symbol.dispose ?? "dispose"]() { log("close", n); } }; };
var dec = function (n) { return (value, context) => { log("dec", n, context.kind, String(context.name), context.static, context.private); }; };
`;

interface Place {
  readonly isAsync: boolean;
  readonly isGenerator: boolean;
  /** True if `this` is an object of a class, or the class. */
  readonly hasThis: boolean;
  readonly hasSuper: boolean;
  /** True within a function that is no arrow function. */
  readonly isFunction: boolean;
  readonly fields: readonly string[];
  readonly methods: readonly string[];
  readonly variables: readonly string[];
  readonly constants: readonly string[];
}

const outside: Place = {
  isAsync: true,
  isGenerator: false,
  hasThis: false,
  hasSuper: false,
  isFunction: false,
  fields: [],
  methods: [],
  variables: [],
  constants: [],
};

type FunctionKind = '' | 'async' | '*' | 'async*';

/** The name of parameters with a default value. */
const parameter = 'a';

class SyntaxWriter extends Random {
  isNewest = false;
  #names = 0;
  #depth = 0;
  #size = 0;
  /** True to write syntax that no engine may know yet. */
  readonly #writesNewest: boolean;

  constructor(
    seed: number,
    private readonly isOldest: boolean,
  ) {
    super(seed);
    this.#writesNewest = !isOldest && this.chance(0.2);
  }

  program(): string {
    const strict = this.chance(0.4) ? '"use strict";\n' : '';
    const parts = Array.from({ length: this.between(3, 5) }, () => {
      this.#size = 0;
      return `  try {\n${this.#statements(outside, this.between(2, 4))}\n  } catch (e) { log("caught", e instanceof Error ? e.name : e); }`;
    });
    return `${strict}${prelude}(async () => {\n${parts.join('\n')}\n})().then(() => log("end"), (e) => log("failed", e.name));\n`;
  }

  #name(): string {
    return `v${String(this.#names++)}`;
  }

  #one(...forms: readonly (false | (() => string))[]): string {
    return this.pick(forms.filter((one) => one !== false))();
  }

  /** Code that is one level deeper: there, only leaves are written from some depth on. */
  #deeper(write: () => string): string {
    this.#depth++;
    const made = write();
    this.#depth--;
    return made;
  }

  // Statements.

  #statements(place: Place, count: number): string {
    const lines: string[] = [];
    let inner = place;
    for (let left = count; left > 0; left--) {
      const [line, next] = this.#statement(inner);
      lines.push(line);
      inner = next;
    }
    return lines.join('\n');
  }

  #block(place: Place): string {
    return this.#deeper(() => `{\n${this.#statements(place, this.between(1, 3))}\n}`);
  }

  #statement(place: Place): readonly [string, Place] {
    this.#size++;
    if (this.chance(0.35)) return this.#declaration(place);
    const e = (): string => this.#expression(place);
    const isSmall = this.#depth > 3 || this.#size > 25;
    const same = (text: string): readonly [string, Place] => [text, place];
    if (isSmall || this.chance(0.35)) return same(`log(${e()});`);
    return same(
      this.#one(
        () => `if (${e()}) ${this.#block(place)} else ${this.#block(place)}`,
        () => `try ${this.#block(place)} catch { log("c"); } finally ${this.#block(place)}`,
        () =>
          `try { throw ${e()}; } catch (${this.pick(this.isOldest ? ['{ k = 1 }', 'k'] : ['{ k = 1 }', '[k]', 'k'])}) { log(typeof k); }`,
        () => this.#loop(place),
        () => this.#loop(place),
        () => this.#calledFunction(place),
        () => this.#calledFunction(place),
        () => this.#usedClass(place),
        () => this.#usedClass(place),
        () => `switch (${e()}) { case 1: let k = ${e()}; log((() => k)()); break; default: log("d"); }`,
        () => this.#using(place),
      ),
    );
  }

  #declaration(place: Place): readonly [string, Place] {
    const kind = this.pick(['let', 'const', 'var']);
    if (this.#depth < 4 && this.chance(0.35)) {
      const names: string[] = [];
      const line = `${kind} ${this.#pattern(place, names)};`;
      return [line, add(place, kind, ...names)];
    }
    const name = this.#name();
    return [`${kind} ${name} = ${this.#expression(place)};`, add(place, kind, name)];
  }

  /** A pattern of declared names with its value. */
  #pattern(place: Place, names: string[]): string {
    const fresh = (): string => {
      names.push(this.#name());
      return names.at(-1)!;
    };
    const value = (): string => (this.chance(0.5) ? ` = ${this.#expression(place)}` : '');
    return this.#one(
      () => `{ x: ${fresh()}${value()}, ...${fresh()} } = o`,
      () => `{ none: ${fresh()}${value()}, [t(1, "g")]: ${fresh()}${value()} } = o`,
      () => `{ z: { w: ${fresh()}, u: ${fresh()}${value()} } = {} } = o`,
      () => `[${fresh()}${value()}, , ...${fresh()}] = o.list`,
      () => `[${fresh()}, [${fresh()}${value()}] = [9]] = o.list`,
      () => `{ list: [, [${fresh()}], { k: ${fresh()}${value()} }] } = o`,
      !this.isOldest && (() => `[${fresh()}${value()}] = iter(3)`),
    );
  }

  #using(place: Place): string {
    if (!this.#writesNewest) return `log(${this.#expression(place)});`;
    this.isNewest = true;
    const name = this.#name();
    const kind = place.isAsync && this.chance(0.4) ? 'await using' : 'using';
    const value = this.pick(['null', `open(${this.#expression(place)})`, 'open(1)']);
    return `{ ${kind} ${name} = ${value}; ${this.#statements(add(place, 'const', name), 2)} }`;
  }

  #loop(place: Place): string {
    const [name, all] = [this.#name(), this.#name()];
    const label = this.chance(0.3) ? `${all}_: ` : '';
    const inner = add(place, 'const', name);
    const leave = this.#one(
      () => '',
      () => `if (${this.#expression(inner)}) continue;`,
      () => `if (${this.#expression(inner)}) break;`,
      () => (label ? `for (;;) { if (${this.#expression(inner)}) break ${all}_; else continue ${all}_; }` : ''),
    );
    const keep = `${all}.push(() => ${name}${this.pick(['', '++', ` += ${this.#leaf(inner)}`])});`;
    const body = (kept = keep): string =>
      this.#deeper(() => `{ ${this.#statements(inner, this.between(1, 2))} ${kept} ${leave} }`);
    const made = this.#one(
      () => `for (let ${name} = 0, n = ${this.pick(['2', '3'])}; ${name} < n; ${name}++) ${body()}`,
      () => `for (const ${name} of [${this.#expression(place)}, 2]) ${body(`${all}.push(() => ${name});`)}`,
      () => `for (let [${name}, k = ${this.#expression(place)}] of [[1], [2, 3]]) ${body()}`,
      () => `for (const ${name} in { a: 1, b: 2 }) ${body(`${all}.push(() => ${name});`)}`,
      () => `for (let { ${name} = 1 } = {}; ${name} < 3; ${name}++) ${body()}`,
      () => `let ${name} = 0; do { let k = ${name}; ${all}.push(() => k + ${name}); } while (++${name} < 3);`,
      !this.isOldest && (() => `for (const ${name} of iter(2)) ${body(`${all}.push(() => ${name});`)}`),
      place.isAsync && (() => `for await (let ${name} of [Promise.resolve(1), ${this.#expression(place)}]) ${body()}`),
    );
    // A label stands before the loop, not before its variables.
    const labelled = made.replace(/^(let [^;]*;\s*)?/, (first) => first + label);
    return `const ${all} = []; ${labelled} log(${all}.map((k) => k()).join());`;
  }

  // Functions.

  #kind(): FunctionKind {
    return this.pick(['', 'async', '*', 'async*']);
  }

  #parameters(place: Place, names: string[]): string {
    const name = this.#name();
    // Default values of asynchronous methods cannot use `super` for some browsers; they neither wait nor yield.
    const defaults: Place = { ...place, isAsync: false, isGenerator: false };
    names.push(name);
    const rest = (): string => {
      names.push(this.#name());
      return names.at(-1)!;
    };
    return this.#one(
      () => name,
      () => `${name} = ${this.#expression(defaults)}`,
      () => `${name} = o.none ?? t(7, o?.x)`,
      () => `${name}, ...${rest()}`,
      () => `{ x: ${name} = ${this.#expression(defaults)} } = {}`,
      // For browsers without iterators, an array pattern takes what is not iterable for an empty array.
      !this.isOldest && (() => `[${name}] = [${this.#expression(defaults)}], ${rest()} = () => ${name}`),
    );
  }

  /** The parameters and the body of a function. */
  #body(place: Place, kind: FunctionKind, isArrow = false): string {
    const names: string[] = [];
    const inner: Place = {
      ...place,
      isAsync: kind.startsWith('async'),
      isGenerator: kind.endsWith('*'),
      isFunction: place.isFunction || !isArrow,
    };
    const parameters = this.#parameters({ ...inner, hasSuper: inner.hasSuper && kind === '' }, names);
    const body = add(inner, 'let', ...names);
    const last = this.chance(0.7) ? `return ${this.#expression(body)};` : '';
    return this.#deeper(
      () => `(${parameters}) ${isArrow ? '=> ' : ''}{ ${this.#statements(body, this.between(1, 3))} ${last} }`,
    );
  }

  /** Code that calls a function and logs all that it returns. */
  #use(place: Place, called: string, kind: FunctionKind): string {
    if (kind === '') return `log(${called});`;
    const isWaiting = place.isAsync;
    // Code that nothing waits for may run earlier or later when it is compiled.
    if (kind.startsWith('async') && !isWaiting) return `log(typeof (() => ${called}));`;
    if (kind === 'async') return `log(await ${called});`;
    if (kind === 'async*') return `for await (const k of ${called}) { log("got", k); }`;
    return this.pick([
      `log([...${called}].map(String).join());`,
      `{ const k = ${called}; log("called"); log(k.next().value); log(k.next(t(3, 4)).value); log(k.return(5).value); }`,
    ]);
  }

  #calledFunction(place: Place): string {
    const [kind, name] = [this.#kind(), this.#name()];
    const [prefix, star] = [kind.replace('*', ''), kind.endsWith('*') ? '*' : ''];
    const own: Place = { ...place, hasThis: false, hasSuper: false, isFunction: true };
    const call = `${name}(${this.#leaf(place)}, 2, 3)`;
    if (star === '' && this.chance(0.4))
      return `const ${name} = ${prefix} ${this.#body(place, kind, true)}; ${this.#use(place, call, kind)}`;
    const made = `${prefix} function${star}`;
    if (this.chance(0.5)) return `${made} ${name}${this.#body(own, kind)} ${this.#use(place, call, kind)}`;
    if (this.isOldest) return `const ${name} = ${made} ${this.#body(own, kind)}; ${this.#use(place, call, kind)}`;
    const method = `const ${name} = { p: 3, ${prefix} ${star}m${this.#body({ ...own, hasThis: true, hasSuper: true }, kind)} };`;
    return `${method} Object.setPrototypeOf(${name}, { p: 8, m() { return "base"; } }); ${this.#use(place, `${name}.m(${this.#leaf(place)}, 2)`, kind)}`;
  }

  // Classes.

  #usedClass(place: Place): string {
    const name = this.#name();
    const text = this.#class(place, name);
    const uses: string[] = [`const ${name}o = new ${name}(${this.#leaf(place)}, 2);`];
    for (const [called, kind] of text.calls) uses.push(this.#use(place, called.replace(/^this/, `${name}o`), kind));
    uses.push(`log(Object.keys(${name}o).join(), Object.getOwnPropertyNames(${name}.prototype).join());`);
    return `${text.text}\n${uses.join('\n')}`;
  }

  /** A class that extends one with methods, accessors and static members, and calls of its members. */
  #class(place: Place, name: string): { text: string; calls: (readonly [string, FunctionKind])[] } {
    const base = this.#name();
    const isDerived = this.chance(0.7);
    const own = { isAsync: false, isGenerator: false, isFunction: true };
    const fields = this.chance(0.7) ? [this.#name(), this.#name()] : [];
    const methods = this.chance(0.5) ? [this.#name()] : [];
    const seen: Place = {
      ...place,
      ...own,
      hasThis: true,
      hasSuper: isDerived,
      fields: [...place.fields, ...fields],
      methods: [...place.methods, ...methods],
    };
    // Of a private name, `this` has those of its own class only.
    const members = { ...seen, fields, methods };
    const noSuper = { ...members, hasSuper: false };
    // Private methods that call each other might not end.
    const noCalls = { ...noSuper, methods: [] };
    const calls: (readonly [string, FunctionKind])[] = [];
    const lines: string[] = [];
    const decorated = (): string => {
      if (!this.#writesNewest || this.chance(0.8)) return '';
      this.isNewest = true;
      return `@dec(t(${String(this.between(1, 9))}, 1)) `;
    };
    for (const field of fields) lines.push(`#${field}${this.chance(0.8) ? ` = ${this.#expression(noSuper)}` : ''};`);
    // `super` in private methods is refused for browsers without them.
    for (const method of methods)
      lines.push(
        this.#one(
          () => `#${method}${this.#body(noCalls, '')}`,
          () => `get #${method}() { return () => ${this.#expression(noCalls)}; }`,
        ),
      );
    for (let left = this.between(1, 5); left > 0; left--) {
      const member = this.#name();
      const isStatic = this.chance(0.25);
      const inside: Place = isStatic ? { ...seen, fields: [], methods: [] } : members;
      const target = isStatic ? name : 'this';
      const prefix = decorated() + (isStatic ? 'static ' : '');
      const key = this.chance(0.15) ? `[t(2, "${member}")]` : member;
      lines.push(
        this.#one(
          () => {
            const kind = this.#kind();
            calls.push([`${target}.${member}(${this.#leaf(place)}, 2)`, kind]);
            const star = kind.endsWith('*') ? '*' : '';
            return `${prefix}${kind.replace('*', '')} ${star}${key}${this.#body(inside, kind)}`;
          },
          () => {
            calls.push([`${target}.${member}`, '']);
            return `${prefix}${key} = ${this.#expression(inside)};`;
          },
          () => {
            calls.push([`${target}.${member} += 2`, '']);
            return `${prefix}get ${key}() { ${this.#statements(inside, 1)} return ${this.#expression(inside)}; } ${prefix.replace(/@dec\(t\(\d, 1\)\) /, '')}set ${key}(v) { log("set", ${this.#expression(inside)}); }`;
          },
          () => `static { ${this.#statements({ ...seen, fields: [], methods: [], isFunction: false }, 2)} }`,
          () => {
            calls.push([`${name}.${member}()`, '']);
            return `static #${member} = ${this.#expression(noSuper.hasSuper ? noSuper : { ...noSuper, hasThis: false })}; static ${member}() { return ${name}.#${member}; }`;
          },
        ),
      );
    }
    if (this.chance(0.5)) {
      const before = this.chance(0.3) ? `log(${this.#leaf({ ...seen, hasThis: false, hasSuper: false })});` : '';
      // Before `super()`, there is no `this`: what such a program does until its error is not compared.
      const early: Place = { ...place, ...own, ...(isDerived && { hasThis: false, hasSuper: false }) };
      const call = this.#one(
        () => 'super(a, 2);',
        () => `super(...[a, ${this.#leaf(early)}]);`,
        () => (this.chance(0.9) ? 'super();' : this.pick(['(() => super(a))();', 'if (super(a).p) log("made");'])),
      );
      lines.push(
        `constructor(a = ${this.#expression(this.#inDefault(early))}) { ${before} ${isDerived ? call : ''} ${this.#statements(add(members, 'let', 'a'), 2)} log(new.target === ${name}); }`,
      );
    }
    const text = `class ${name}${isDerived ? ` extends ${base}` : ''} {\n${lines.join('\n')}\n}`;
    const written = this.chance(0.3) ? `const ${name} = ${text.replace(`class ${name}`, 'class')};` : text;
    return { text: isDerived ? `${baseClass(base)}\n${written}` : written, calls };
  }

  // Expressions.

  #leaf(place: Place): string {
    return this.#one(
      () => this.pick(['1', '2', '"s"', 'null', 'o.x', 'o.y', 'o.none', '0']),
      () => `t(${String(this.between(1, 9))}, ${this.pick(['1', 'null', 'undefined', '"k"'])})`,
      () => this.pick([...place.variables, ...place.constants, '3']),
      place.hasThis && place.fields.length > 0 && (() => `this.#${this.pick(place.fields)}`),
      place.hasThis && (() => 'this.p'),
    );
  }

  #expression(place: Place): string {
    if (this.#depth > 5 || this.chance(0.25)) return this.#leaf(place);
    return this.#deeper(() => this.#compound(place));
  }

  #compound(place: Place): string {
    const e = (): string => this.#expression(place);
    const l = (): string => this.#leaf(place);
    const field = place.hasThis && place.fields.length > 0 && this.pick(place.fields);
    const method = place.hasThis && place.methods.length > 0 && this.pick(place.methods);
    const written = this.pick([...place.variables, undefined]);
    return this.#one(
      () => `(${e()} ${this.pick(['+', '??', '===', '<'])} (${e()}))`,
      () => `((${e()}) ${this.pick(['||', '&&', '??'])} ${e()})`,
      () => `(${e()} ? ${e()} : ${e()})`,
      () => `o${this.pick(['?.x', '.y?.z.w', '.z?.f?.(1)?.w', '?.["z"]?.w', '.none?.(t(9, 1))', '.z?.u?.x.y'])}`,
      () => `o?.[${this.pick(['t(4, "x")', '"g"'])}]`,
      () => `(o?.z).f(${e()}).w`,
      () => `o.m?.(${e()}, ...[${e()}, 2])`,
      () => `delete o?.[${l()}]?.q`,
      () => `(${this.pick(['o.g', 'o.y', 'o[t(5, "none")]', 'o.z.u'])} ${this.pick(['??=', '||=', '&&='])} ${l()})`,
      written !== undefined && (() => `(${written} ${this.pick(['=', '+=', '??=', '||=', '&&='])} ${e()})`),
      written !== undefined && (() => `([${written} = ${e()}, o.x] = [${l()}, ${l()}]).length`),
      written !== undefined && (() => `({ x: ${written}, [t(6, "z")]: { w: o.z.w = ${l()} } } = o).x`),
      () => `({ ...o.z, ...${l()}, k: ${e()} }).k`,
      () => `[${e()}, ...[${e()}]].join("-")`,
      () => `\`a\${${e()}}b\${${l()}}\``,
      () => `o.tag\`a\${${e()}}\\n\${${l()}}c\``,
      !this.isOldest && (() => '((f) => f() === f())(() => ((p) => p)`a${1}`)'),
      () =>
        `((a = ${this.#expression(this.#inDefault({ ...place, isAsync: false, isGenerator: false }))}) => a)(${l()})`,
      () => `(() => ${this.#expression({ ...place, isAsync: false, isGenerator: false })})()`,
      () => `typeof (${e()})`,
      () => `(${l()}, ${e()})`,
      place.isAsync && (() => `(await ${this.chance(0.5) ? e() : `Promise.resolve(${e()})`})`),
      place.isAsync && (() => `(await (async () => ${this.#expression({ ...place, isGenerator: false })})())`),
      place.isGenerator && (() => `(yield ${e()})`),
      place.isGenerator && (() => `(yield* [${e()}, ${l()}])`),
      place.isFunction && !place.isAsync && !place.isGenerator && (() => 'typeof new.target'),
      typeof field === 'string' && (() => `(this.#${field} ${this.pick(['=', '??=', '||=', '+='])} ${e()})`),
      typeof field === 'string' && (() => this.pick([`this.#${field}++`, `--this.#${field}`, `this?.#${field}`])),
      typeof field === 'string' && (() => `(#${field} in this)`),
      typeof field === 'string' && (() => `([this.#${field} = ${l()}] = [${e()}]).length`),
      typeof field === 'string' && (() => `({ x: this.#${field} } = o).x`),
      typeof method === 'string' && (() => `typeof this.#${method}(${l()})`),
      typeof method === 'string' && (() => `typeof this?.#${method}?.(${l()}, ${l()})`),
      place.hasSuper && (() => `super.m(${e()})`),
      place.hasSuper && (() => `super[${this.pick(['"m"', 't(8, "m")'])}]?.(${l()})`),
      place.hasSuper && (() => `(() => super.p)()`),
      place.hasSuper && (() => `(super.s ${this.pick(['=', '+=', '??='])} ${e()})`),
      place.hasSuper && !this.isOldest && (() => `typeof super.m\`a\${${l()}}\``),
      place.hasThis && (() => `(this.own ${this.pick(['=', '??='])} ${e()})`),
    );
  }

  /** A default value of the parameter, which browsers without dead zones can read in it. */
  #inDefault(place: Place): Place {
    return this.isOldest ? { ...place, variables: place.variables.filter((one) => one !== parameter) } : place;
  }
}

/** A class to extend: \`m\` and \`p\` exist on objects and on the class. */
const baseClass = (name: string): string =>
  `class ${name} { constructor(a) { this.p = a; } m(a) { return "m" + this.p + typeof a; } static m(a) { return "sm" + typeof a; } static get p() { return "sp"; } get s() { log("get s"); return this.r ?? 1; } set s(v) { log("set s", typeof v); this.r = v; } }`;

function add(place: Place, kind: string, ...names: readonly string[]): Place {
  return kind === 'const'
    ? { ...place, constants: [...place.constants, ...names] }
    : { ...place, variables: [...place.variables, ...names] };
}
