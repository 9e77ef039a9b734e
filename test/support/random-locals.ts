import type { Random } from './random.js';

/** The number of parameters and variables, and the maximum nesting of statements. */
const [parameters, variables, deepest] = [3, 6, 4];

/**
 * A random function without outside access: its parameters and variables are written and read repeatedly, in branches,
 * loops, `switch`, `try` and parts of expressions that may not be evaluated.
 */
export class LocalsWriter {
  /** The visible names declared with `let` and `const`. */
  #lexical: string[] = [];
  #constant: string[] = [];
  #made = 0;
  #size = 0;
  #loops = 0;
  /** The number of parameters that are never written. */
  readonly #kept: number;

  constructor(private readonly random: Random) {
    this.#kept = random.between(0, parameters);
  }

  function(): string {
    const names = Array.from({ length: parameters }, (_, at) => `p${String(at)}`);
    return `function (${names.join(', ')}) {\n${this.#statements(0, this.random.between(3, 7))}\n${this.#end()}\n}`;
  }

  /** The last statement: a value, or the last uses of parameters. */
  #end(): string {
    return this.random.chance(0.4) ? this.#calledInPlace() : `return ${this.#value(0)};`;
  }

  #statements(depth: number, count: number): string {
    const [lexical, constant] = [this.#lexical, this.#constant];
    this.#lexical = [...lexical];
    this.#constant = [...constant];
    const made = Array.from({ length: count }, () => this.#statement(depth)).join('\n');
    this.#lexical = lexical;
    this.#constant = constant;
    return made;
  }

  #block(depth: number): string {
    return `{\n${this.#statements(depth + 1, this.random.between(1, 4))}\n}`;
  }

  #written(): string {
    const { random } = this;
    const name = random.between(this.#kept, parameters + variables + this.#lexical.length - 1);
    if (name < parameters) return `p${String(name)}`;
    return name < parameters + variables
      ? `v${String(name - parameters)}`
      : this.#lexical[name - parameters - variables]!;
  }

  #read(): string {
    if (this.#kept > 0 && this.random.chance(0.2)) return `p${String(this.random.between(0, this.#kept - 1))}`;
    return this.#constant.length > 0 && this.random.chance(0.2) ? this.random.pick(this.#constant) : this.#written();
  }

  #value(depth: number): string {
    const { random } = this;
    const part = (): string => this.#value(depth + 1);
    if (depth > 3) return this.#read();
    return random.pick([
      () => this.#read(),
      () => this.#read(),
      () => this.#read(),
      () => String(random.between(0, 3)),
      () => `log(${part()})`,
      () => `[${part()}, ${part()}]`,
      () => `(${part()} ${random.pick(['+', '===', '<', ','])} ${part()})`,
      () => `(${part()} ${random.pick(['&&', '||', '??'])} ${part()})`,
      () => `(${part()} ? ${part()} : ${part()})`,
      () => `(${this.#written()} = ${part()})`,
      () => `(${this.#written()} ${random.pick(['+=', '&&=', '||=', '??='])} ${part()})`,
      () => `${this.#written()}${random.pick(['++', '--'])}`,
      () => `\`\${${part()}}\``,
      () => `(${part()})?.[${part()}]`,
      () => `(([${this.#written()}, ${this.#written()} = ${part()}] = [${part()}, ${part()}]), ${this.#read()})`,
      () => `(({ a: ${this.#written()}, ...${this.#written()} } = { a: ${part()}, b: ${part()} }), ${this.#read()})`,
    ])();
  }

  #declared(): string {
    const { random } = this;
    const value = this.#kept > 0 && random.chance(0.25) ? this.#read() : this.#value(0);
    if (random.chance(0.6)) return `var v${String(random.between(0, variables - 1))} = ${value}`;
    const isConstant = random.chance(0.4);
    const name = `l${String(this.#made++)}`;
    const made = `${isConstant ? 'const' : 'let'} ${name} = ${value}`;
    (isConstant ? this.#constant : this.#lexical).push(name);
    return made;
  }

  #statement(depth: number): string {
    const { random } = this;
    const small = [
      () => `log(${this.#value(0)});`,
      () => `${this.#declared()};`,
      () => `${this.#declared()};`,
      () => `let ${this.#list()};`,
      () => `${this.#written()} = ${this.#value(0)};`,
      () => `${this.#written()} = ${this.#read()};`,
      () => `${this.#value(0)};`,
    ];
    if (random.chance(0.08)) return this.#calledInPlace();
    if (random.chance(0.08)) return this.#usedOnce();
    if (this.#loops > 0) small.push(() => `if (${this.#value(1)}) ${random.pick(['break', 'continue'])};`);
    if (random.chance(0.05)) return `if (${this.#value(1)}) return ${this.#value(1)};`;
    if (depth >= deepest || ++this.#size > 40) return random.pick(small)();
    return random.pick([
      ...small,
      ...small,
      () => `if (${this.#value(0)}) ${this.#block(depth)}`,
      () => `if (${this.#value(0)}) ${this.#block(depth)} else ${this.#block(depth)}`,
      () => this.#loop(depth),
      () => this.#loop(depth),
      () => `try ${this.#block(depth)} catch (error) ${this.#block(depth)}`,
      () => `try ${this.#block(depth)} finally ${this.#block(depth)}`,
      () =>
        `switch (${this.#value(1)}) { case ${this.#value(1)}: ${this.#block(depth)} break; default: ${this.#block(depth)} case ${this.#value(2)}: ${this.#block(depth)} }`,
      () =>
        `switch (${this.#value(1)}) { case ${this.#value(1)}: ${this.#statements(depth + 1, 2)} break; default: ${this.#statements(depth + 1, 2)} }`,
      () =>
        `out${String(depth)}: { ${this.#block(depth)} if (${this.#value(1)}) break out${String(depth)}; ${this.#block(depth)} }`,
    ])();
  }

  /** A function that is called in place, whose parameters may be copies of those of the enclosing function. */
  #calledInPlace(): string {
    const { random } = this;
    const names = ['q0', 'q1', 'q2'];
    const name = (): string => random.pick(names);
    const body = Array.from({ length: random.between(2, 4) }, () =>
      random.pick([
        () => `log(${name()});`,
        () => `log([${name()}, ${name()}]);`,
        () => `if (${name()}) log(${name()});`,
        () => `${name()} = ${random.pick([name(), '[1]'])};`,
      ])(),
    );
    const value = (): string =>
      random.pick([() => this.#read(), () => this.#read(), () => 'log(2)', () => '[0]', () => this.#written()])();
    return `(function (${names.join(', ')}) { ${body.join(' ')} })(${names.map(value).join(', ')});`;
  }

  /** A value that is used once, after reads of names that its evaluation may assign to. */
  #usedOnce(): string {
    const { random } = this;
    const name = this.#written();
    const part = this.#value(2);
    const value = random.pick([
      `(([${name}] = [${part}]), ${this.#read()})`,
      `(({ a: ${name} } = { a: ${part} }), ${this.#read()})`,
      `(${name} = ${part})`,
      `${name}++`,
      `(${part}, ${name} &&= ${part})`,
    ]);
    return random.pick([
      `{ const once = ${value}; ${this.#written()} = [${name}, once, ${this.#read()}]; log(${this.#read()}); }`,
      `{ let once = ${value}, both = [${name}, once]; log(both); }`,
      `{ const once = ${value}; if (${name} && once) log(${this.#read()}); }`,
      `{ const once = ${value}; ${name}++; log([${name}, once]); }`,
      `{ const once = ${value}; (function (q0, q1) { log([q0]); log([q1, q0]); })(${name}, once); }`,
    ]);
  }

  /** A loop whose head declares several variables, with or without values that read earlier ones. */
  #listLoop(depth: number): string {
    const { random } = this;
    const [lexical, constant] = [this.#lexical, this.#constant];
    this.#lexical = [...lexical];
    this.#constant = [...constant];
    const list = this.#list();
    const made = `for (${random.pick(['let', 'let', 'var'])} ${list}; fuel() && ${this.#value(1)}; ${this.#value(1)}) ${this.#block(depth)}`;
    this.#lexical = lexical;
    this.#constant = constant;
    return made;
  }

  /** Declarators of one list, of which each may read those before it. */
  #list(): string {
    const { random } = this;
    return Array.from({ length: random.between(2, 4) }, () => {
      const value = random.pick(['', ` = ${this.#read()}`, ` = ${this.#value(2)}`]);
      const name = `l${String(this.#made++)}`;
      this.#lexical.push(name);
      return `${name}${value}`;
    }).join(', ');
  }

  #loop(depth: number): string {
    this.#loops++;
    const variable = `v${String(this.random.between(0, variables - 1))}`;
    const made = this.random.pick([
      () => `while (fuel() && ${this.#value(1)}) ${this.#block(depth)}`,
      () => `do ${this.#block(depth)} while (fuel() && ${this.#value(1)});`,
      () => `for (var ${variable} = 0; ${variable} < 2 && fuel(); ${variable}++) ${this.#block(depth)}`,
      () =>
        `for (${this.#written()} = ${this.#value(1)}; fuel() && ${this.#value(1)}; ${this.#value(1)}) ${this.#block(depth)}`,
      () => this.#listLoop(depth),
      () => this.#listLoop(depth),
      () => `for (var ${variable} in { a: ${this.#value(1)}, b: 1 }) ${this.#block(depth)}`,
      () => `for (${this.#written()} of [${this.#value(1)}, ${this.#value(1)}]) ${this.#block(depth)}`,
    ])();
    this.#loops--;
    return made;
  }
}
