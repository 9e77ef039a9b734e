import vm from 'node:vm';
import fc from 'fast-check';
import { minifyScript } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';

const minified = (text: string, module?: boolean): string => {
  const result = minifyScript(text, { module });
  expect(result.diagnostics, text).toEqual([]);
  return result.text;
};

const cases: Record<string, [before: string, after: string][]> = {
  'white space, semicolons and braces': [
    ['var a = 1 ;\n\nvar b = 2 ; ;\n', 'var a=1;var b=2'],
    ['if ( a ) { b ( ) ; } else { c ( ) }', 'if(a)b();else c()'],
    ['if (a) { if (b) c() } else d()', 'if(a){if(b)c()}else d()'],
    ['if (a) { while (b) if (c) d() } else e()', 'if(a){while(b)if(c)d()}else e()'],
    ['if (a) { if (b) c(); else d() } else e()', 'if(a)if(b)c();else d();else e()'],
    ['if (a) { let b } else { function c() {} }', 'if(a){let b}else{function c(){}}'],
    ['for ( ; ; ) { } while ( a ) ; do { b ( ) } while ( c ) ; d ( )', 'for(;;);while(a);do b();while(c);d()'],
    [
      'a: for (const b of c) { continue a } switch (d) { case 1: e(); break; default: f() }',
      'a:for(const b of c)continue a;switch(d){case 1:e();break;default:f()}',
    ],
    [
      'try { a() } catch { b() } finally { c() } try { } catch ({ d }) { }',
      'try{a()}catch{b()}finally{c()}try{}catch({d}){}',
    ],
    [
      'function a ( b , ...c ) { return } async function * d ( ) { yield * e ; await f }',
      'function a(b,...c){return}async function*d(){yield*e;await f}',
    ],
    ['return_: { break return_ }', 'return_:break return_'],
  ],
  'literals and keys': [
    [
      'a = [true, false, 1000, 0.5, 0x10, 1e21, 0.00001, 5.0, 123456789012345680000, 1_000n]',
      'a=[!0,!1,1e3,.5,16,1e21,1e-5,5,12345678901234568e4,1000n]',
    ],
    [
      'a = ["it\'s", \'"\', "\\x41\\u{1f600}", "\\0", "\\x001", "a\\\nb", "\\ud800", "\\u2028"]',
      'a=["it\'s",\'"\',"A😀","\\0","\\x001","ab","\\ud800","\\u2028"]',
    ],
    [
      'a = "</script>" + "<!--" + `</script>${b}` + c`</script>`',
      'a="<\\/script>"+"<\\!--"+`<\\/script>${b}`+c`</script>`',
    ],
    [
      'a = { "b": 1, "c-d": 2, "3": 4, 0.5: 6, [e]: 7, "f"() {}, get "g"() {}, async *h() {}, i, ...j, "__proto__": k }',
      'a={b:1,"c-d":2,3:4,.5:6,[e]:7,f(){},get g(){},async*h(){},i,...j,__proto__:k}',
    ],
    [
      'a["b"] = c?.["d"]; e["f-g"]; 1..toString(); 1.5.toFixed(); 1e3.toFixed(); true.x',
      'a.b=c?.d;e["f-g"];1..toString();1.5.toFixed();1e3.toFixed();(!0).x',
    ],
    ['a = /[/]\\/x/g ; b = c / d / e ; f = g / /h/ ; i = /j/ in k', 'a=/[/]\\/x/g;b=c/d/e;f=g/ /h/;i=/j/ in k'],
  ],
  parentheses: [
    [
      '(a, b); ((c)); (d + e) * f; d + (e * f); (g - h) - i; g - (h - i); (j ** k) ** l; j ** (k ** l)',
      'a,b;c;(d+e)*f;d+e*f;g-h-i;g-(h-i);(j**k)**l;j**k**l',
    ],
    [
      '(-a) ** b; (await_) ** 2; -(-c); +(+d); - --e; f - -g; h + +i; j-- - k; !(!l); typeof (m + n); void 0',
      '(-a)**b;await_**2;- -c;+ +d;- --e;f- -g;h+ +i;j-- -k;!!l;typeof(m+n);void 0',
    ],
    [
      '(a ?? b) || c; a ?? (b && c); (a || b) && c; a || (b && c); (a ? b : c) ? d : e',
      '(a??b)||c;a??(b&&c);(a||b)&&c;a||b&&c;(a?b:c)?d:e',
    ],
    [
      '(function () {})(); (class {}).a; ({}).b; ({ c } = d); (e => e)(); let_ = f; (async () => {})()',
      '(function(){}());(class{}.a);({}.b);({c}=d);(e=>e)();let_=f;(async()=>{})()',
    ],
    [
      'new (a())(); new (a.b().c)(d); new a; new a().b; new (a.b); new (import(c)); new new a',
      'new(a());new(a.b().c)(d);new a;new a().b;new a.b;new(import(c));new new a()',
    ],
    ['(a?.b).c; (a?.b)(); a?.b.c; a?.(); new (a?.b)(d)', '(a?.b).c;(a?.b)();a?.b.c;a?.();new(a?.b)(d)'],
    [
      'a = () => ({}); b = () => ({}).c; d = () => { }; e = async f => f; g = (h, i) => h; j = ({ k }) => k',
      'a=()=>({});b=()=>({}.c);d=()=>{};e=async f=>f;g=(h,i)=>h;j=({k})=>k',
    ],
    [
      'for (var a = ("b" in c); ;) { } for (var d = () => { e in f }; ;) ; for (let_ in g) ;',
      'for(var a=("b"in c);;);for(var d=()=>{(e in f)};;);for(let_ in g);',
    ],
    [
      '(a) = function () {}; [(b) = () => {}] = c; ({ d: (e) = class {} } = f)',
      '(a)=function(){};[(b)=()=>{}]=c;({d:(e)=class{}}=f)',
    ],
    ['a < !--b; c-- > d; e = f ? .5 : g', 'a< !--b;c-->d;e=f?.5:g'],
    [
      'yield_: for (async of => {}; ;) ; for ((async) of a) ; (let)[0] = 1; for ((let) of b) ;',
      'yield_:for(async of=>{};;);for((async)of a);(let[0]=1);for((let)of b);',
    ],
  ],
  'classes, modules and directives': [
    [
      'class A extends (b, c) { static #d = 1; get; set; static; "e" = 2; [f]; static { g() } static async *h() {} #i() { #d in this } }',
      'class A extends(b,c){static#d=1;get;set;static;e=2;[f];static{g()}static async*h(){}#i(){#d in this}}',
    ],
    [
      '"use strict" ; \'use\\x20me\' ; ("not one") ; function f() { "use strict" ; return }',
      '"use strict";\'use\\x20me\';("not one");function f(){"use strict";return}',
    ],
    [';"not a directive"', '("not a directive")'],
    [
      'import a , { b as c , default as d , "e-f" as g } from "h" with { type : "json" } ; import * as i from "j" ; import "k"',
      'import a,{b as c,default as d,"e-f"as g}from"h"with{type:"json"};import*as i from"j";import"k"',
    ],
    [
      'var a , c ; export { a as b , c } ; export * as d from "e" ; export default ( function ( ) { } ) ; export const f = import.meta.url',
      'var a,c;export{a as b,c};export*as d from"e";export default(function(){});export const f=import.meta.url',
    ],
    ['export default function ( ) { } export class A { }', 'export default function(){}export class A{}'],
    ['export default (class { }).b', 'export default(class{}.b)'],
  ],
  comments: [
    ['/* gone */ a ( /* gone */ ) // gone\n', 'a()'],
    [
      '/*! kept */\na()\n// @license kept too\nfunction b() { /* @preserve this */ c() }\n//! last',
      '/*! kept */\na();\n// @license kept too\nfunction b(){\n/* @preserve this */\nc()}\n//! last\n',
    ],
    ['#!/usr/bin/env node\na ( )', '#!/usr/bin/env node\na()'],
  ],
};

describe.each(Object.entries(cases))('minifying scripts: %s', (_, pairs) => {
  it.each(pairs)('%s', (before, after) => {
    expect(minified(before)).toBe(after);
    expect(minified(after)).toBe(after);
  });
});

/** Programs made at random of expressions that can be run: what they print must not change. */
function programs(): fc.Arbitrary<string> {
  const leaf = fc.constantFrom(
    'a',
    'b',
    'f',
    '1',
    '1e3',
    '0.5',
    '"s"',
    "'\"'",
    'true',
    'null',
    'undefined',
    '/x/g',
    '`t`',
    '[1, , 2]',
    '({ "k": 1, a })',
    'this',
  );
  const { expression } = fc.letrec<{ expression: string }>((tie) => {
    const part = tie('expression');
    const binary = fc.constantFrom(
      '+',
      '-',
      '*',
      '/',
      '%',
      '**',
      '<',
      '>',
      '==',
      '!==',
      '&',
      '|',
      '^',
      '<<',
      '>>>',
      '&&',
      '||',
      'in',
      'instanceof',
      ',',
    );
    return {
      expression: fc.oneof(
        { maxDepth: 5, withCrossShrink: true },
        leaf,
        fc.tuple(part, binary, part).map(([x, operator, y]) => `((${x}) ${operator} (${y}))`),
        fc.tuple(part, part).map(([x, y]) => `((${x}) ?? (${y}))`),
        fc
          .tuple(fc.constantFrom('-', '+', '!', '~', 'typeof ', 'void '), part)
          .map(([operator, x]) => `${operator}(${x})`),
        fc.constantFrom('a++', '--b', 'a--', 'a += 2', 'b = a'),
        fc.tuple(part, part, part).map(([x, y, z]) => `((${x}) ? (${y}) : (${z}))`),
        fc.tuple(part, part).map(([x, y]) => `f((${x}), (${y}))`),
        fc
          .tuple(part, fc.constantFrom('?.k', '.k', '["k"]', '?.["k-k"]', '?.(1)'))
          .map(([x, access]) => `(${x})${access}`),
        part.map((x) => `((p, q = 1) => (${x}))(a)`),
        part.map((x) => `(function () { if (a) { return (${x}) } else { if (b) return 2 } return 3 })()`),
        part.map((x) => `\`<\${(${x})}>\``),
      ),
    };
  });
  const statement = fc.oneof(
    expression.map((x) => `log(${x});`),
    fc
      .tuple(expression, expression, expression)
      .map(([x, y, z]) => `if (${x}) { if (${y}) { log(1) } } else { log(${z}) }`),
    expression.map((x) => `for (let i = 0, j = (${x}); i < 2; i++) { log(i, typeof j) }`),
    expression.map((x) => `try { throw (${x}) } catch (e) { log(e) } finally { a = 1 }`),
    expression.map((x) => `switch (${x}) { case 1: log("one"); default: log("other") }`),
    expression.map((x) => `(${x});`),
  );
  return fc.array(statement, { minLength: 1, maxLength: 5 }).map((parts) => parts.join('\n'));
}

function run(program: string): string {
  const lines: string[] = [];
  const show = (value: unknown): string =>
    typeof value === 'function'
      ? 'function'
      : Object.is(value, -0)
        ? '-0'
        : typeof value === 'object' && value !== null
          ? (JSON.stringify(value) ?? 'object')
          : String(value);
  const context = vm.createContext({ log: (...values: unknown[]) => lines.push(values.map(show).join(' ')) });
  try {
    vm.runInContext(`var a = 3, b = -2; function f(x, y) { return x === undefined ? y : x }\n${program}`, context);
  } catch (error) {
    lines.push(`throws ${(error as Error | undefined)?.constructor?.name ?? String(error)}`);
  }
  return lines.join('\n');
}

describe('minifying scripts', () => {
  it('keeps what random programs do, and changes nothing the second time', () => {
    fc.assert(
      fc.property(programs(), (program) => {
        const once = minified(program, false);
        expect(run(once)).toBe(run(program));
        expect(minified(once, false)).toBe(once);
        expect(once.length).toBeLessThanOrEqual(program.length);
      }),
      { numRuns: 1000, seed: 20_261_123 },
    );
  });

  it('keeps names, with which functions know themselves', () => {
    expect(minified('function alpha(beta) { let gamma = class delta {}; return gamma }')).toBe(
      'function alpha(beta){let gamma=class delta{};return gamma}',
    );
    expect(minifyScript('let alpha = () => {}', { preserveNames: true }).text).toBe('let alpha=()=>{}');
  });

  it('takes modules and scripts for what they are', () => {
    expect(minified('await x; export {}')).toBe('await x;export{}');
    expect(minified('with (a) b = await; var await')).toBe('with(a)b=await;var await');
    expect(minifyScript('with (a) b', { module: true }).diagnostics).toMatchObject([{ code: 'script-syntax' }]);
    expect(minifyScript('export {}', { module: false }).diagnostics).toMatchObject([{ code: 'script-syntax' }]);
  });

  it('tells where a script cannot be parsed, and leaves it', () => {
    const text = 'let a = 1;\nlet b = = 2;\n';
    expect(minifyScript(text, { file: 'x.js' })).toMatchObject({
      text,
      diagnostics: [
        { code: 'script-syntax', severity: 'error', file: 'x.js', range: { start: { line: 2, column: 9 } } },
      ],
    });
  });
});
