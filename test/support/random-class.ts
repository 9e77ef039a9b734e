import fc from 'fast-check';

/** Members of a derived class that its constructor initializes. */
const members = fc.subarray(
  [
    'x = log("x", this instanceof Base)',
    'y',
    '#z = log("z", 1); z() { return this.#z }',
    '#m() { return 2 } m() { return this.#m() }',
    'arrow = () => this.x',
    'static s = log("static", 3)',
    '["c" + 1] = log("computed")',
    // Names that mean something else in the constructor.
    'outer = a',
    'late = () => [a, { a }, ((a) => a)(6)]',
    'more = { v, r: typeof r, of: [v] }',
    // The base class has a setter of that name.
    'taken = log("taken")',
    'static name = "named"',
    'target = typeof new.target',
  ],
  { minLength: 0 },
);

/** Statements of a constructor that calls `super` once. */
const bodies = fc.constantFrom(
  'super(a);',
  'super(a), this.w = this.x;',
  'log("before"), super(a), this.w = this.x, log("after");',
  'log("before"); super(a); this.w = this.x;',
  'return super(a), this.w = this.x, this;',
  'try { super(a) } catch { log("caught") } this.w = this.x;',
  '{ super(a); this.w = this.x; }',
  'const r = super(a); this.w = r === this;',
  'if (a) super(a); else super(0); this.w = this.x;',
  'const call = () => super(a); call(); this.w = this.x;',
  'a ? super(a) : super(1); this.w = this.x;',
  'log(super(a) === this); this.w = this.x;',
  'var v = 1; super(v), log(v);',
  'super(...[a]), super.toString(), this.w = 1;',
  'for (const b of [a]) super(b); this.w = 2;',
  'super(a); const v = { a }; let r = ({ a: q, ...w } = { a }) => [a, q, v.a]; this.w = r().join();',
  'super(a); a = 7; { let a = 8; log(a); } try { throw a } catch (a) { log(a) } log(a, ((a) => a)(9), function a() { return a.name }());',
  'super(a); const { v = a, ...r } = { a }; var q = { v, a() { return a } }; ({ a } = { a: v }); this.w = [a, v, r.a, q.a()].join();',
);

/** A script with a derived class, which records what happens. */
export const randomClass = fc
  .tuple(members, fc.option(bodies, { freq: 12, nil: undefined }), fc.boolean())
  .map(([fields, body, isExpression]) => {
    const constructor = body === undefined ? '' : `constructor(a) { ${body} }`;
    const text = `extends Base { ${fields.map((one) => `${one};`).join(' ')} ${constructor} }`;
    return `const seen = [];
function log(...what) { seen.push(what.join(" ")); return what.length; }
const a = "outer a", v = "outer v";
class Base { constructor(a) { log("base", a, Object.keys(this).join()); this.base = a; } set taken(value) { log("setter"); } }
${isExpression ? `const Derived = class ${text};` : `class Derived ${text}`}
try {
  const made = new Derived(5);
  log(JSON.stringify(made), Derived.name === "named", JSON.stringify(made.late && made.late()), made.z && made.z(), made.m && made.m(), made.arrow && made.arrow());
} catch (error) { log(error.name); }
globalThis.result = seen.join("\\n");
`;
  });
