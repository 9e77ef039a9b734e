import fc from 'fast-check';
import { minifyStyle, prefixStyle } from 'loyal-anvil';
import { casesAreFor, styleRewriteHelp } from '#modules/core/languages/css/minify/help.js';
import { describe, expect, it } from 'vitest';

const minified = (text: string, browsers?: string): string => {
  const result = minifyStyle(text, { browsers });
  expect(result.diagnostics).toEqual([]);
  return result.text;
};

/** Input and output, by rewrite or part of the printer. */
const cases: Record<string, [before: string, after: string][]> = {
  'white space and semicolons': [
    ['  a  ,\n b > c   d + e ~ f { g : h ; i : j k , l ; }\n\n', 'a,b>c d+e~f{g:h;i:j k,l}'],
    [
      '@media  screen   and ( min-width : 40em ) , print { a { b : c } }',
      '@media screen and (min-width:40em),print{a{b:c}}',
    ],
    [
      '@media (400px <= width < 700px) and (not (hover)) { a { b: c } }',
      '@media (400px<=width<700px) and (not (hover)){a{b:c}}',
    ],
    [
      '@supports ( display : grid ) and ( not selector( a > b ) ) { a { b: c } }',
      '@supports (display:grid) and (not selector(a > b)){a{b:c}}',
    ],
    ['@container card (width > 30em) { a { b: c } }', '@container card (width>30em){a{b:c}}'],
    ['@layer one , two;\n@layer one { a { b: c } }', '@layer one,two;@layer one{a{b:c}}'],
    ['@scope ( .a ) to ( .b ) { :scope { c: d } }', '@scope (.a) to (.b){:scope{c:d}}'],
    ['@page :first { margin : 1in ; @top-left { content : "x" } }', '@page :first{margin:1in;@top-left{content:"x"}}'],
    [
      '@property --x { syntax : "<length>" ; inherits : false ; initial-value : 0px }',
      '@property --x{syntax:"<length>";inherits:false;initial-value:0px}',
    ],
    [
      '@font-face { src : url( "a.woff2" ) format( "woff2" ) , local( X Y ) }',
      '@font-face{src:url(a.woff2) format("woff2"),local(X Y)}',
    ],
    ['a { b : c ! important ; d : e !ie }', 'a{b:c!important;d:e!ie}'],
    ['a { grid-template : [ a ] "x y" 1fr [ b ] / auto ; }', 'a{grid-template:[a]"x y"1fr[b]/auto}'],
    ['a { width : calc( 1px + ( 2px * var( --x ) ) - -4px / 5 ) ; }', 'a{width:calc(1px + (2px*var(--x)) - -4px/5)}'],
    ['a { margin : -1px +2px -.5em ; }', 'a{margin:-1px 2px -.5em}'],
    ['a { transform : translate( 1px , 2px ) rotate( 3deg ) }', 'a{transform:translate(1px,2px) rotate(3deg)}'],
  ],
  nesting: [
    [
      'a { b: c; .d { e: f } @media (min-width: 1px) { g: h; i { j: k } } l: m }',
      'a{b:c;.d{e:f}@media (min-width:1px){g:h;i{j:k}}l:m}',
    ],
    [
      'a { b: c; &:hover { d: e } > f { g: h } span { i: j } .k & { l: m } n: o }',
      'a{b:c;&:hover{d:e}>f{g:h}span{i:j}.k &{l:m}n:o}',
    ],
    ['a { @media print { b: c; .d { e: f } } }', 'a{@media print{b:c;.d{e:f}}}'],
  ],
  comments: [
    ['/* gone */ a /* gone */ { /* gone */ b : /* gone */ c /* gone */ } /* gone */', 'a{b:c}'],
    [
      '/*! kept */\na { b: c }\n/* @license kept too */\nd { e: f }',
      '/*! kept */\na{b:c}\n/* @license kept too */\nd{e:f}',
    ],
    ['a { /*! kept */ } b { c: d /*! in place */ }', 'a{\n/*! kept */\n}b{c:d\n/*! in place */\n}'],
  ],
  'strings and addresses': [
    ["a { content: 'x'; quotes: '\"' \"'\" }", 'a{content:"x";quotes:\'"\'"\'"}'],
    [
      'a { b: url( "x y.png" ) url(\'z(1).png\') url("") url( data:image/png;base64,AA== ) url("a b(c).png") }',
      'a{b:url(x\\ y.png) url(z\\(1\\).png) url() url(data:image/png;base64,AA==) url("a b(c).png")}',
    ],
    ['a { content: "\\a b\\"" "\\201C" }', 'a{content:\'\\a b"\'"\\201c"}'],
    ['a { content: "\\201C" "\u00e4" }', 'a{content:"\u201c""\u00e4"}'],
    ['@charset "utf-8"; .\\f000 b \\e4 i { background: url(\\e4 .png) }', '.\\f000 b \\e4 i{background:url(\\e4.png)}'],
  ],
  selectors: [
    ['[a="b"] [ c = \'d e\' ] [f|="g" i] [h="1"] [i="j" S] { k: l }', '[a=b] [c="d e"] [f|=g i] [h="1"] [i=j S]{k:l}'],
    [
      ':nth-child( 2n + 1 ) :nth-child( EVEN ) :nth-child( -n + 3 ) :nth-child( 0n + 4 ) :nth-child( 1n + 0 of .x ) { a: b }',
      ':nth-child(odd) :nth-child(EVEN) :nth-child(-n+3) :nth-child(4) :nth-child(n of .x){a:b}',
    ],
    [
      ':is( a , b > c ) :not( .d ) ::slotted( e ) svg|f *|g .\\31 0 .h\\:i { j: k }',
      ':is(a,b>c) :not(.d) ::slotted(e) svg|f *|g .\\31 0 .h\\:i{j:k}',
    ],
  ],
  'custom properties, and what is no business of a minifier': [
    [
      'a { --x:  { a : b }  ; --y:; --z: ; c: var( --x , 1px ) var(--y,) }',
      'a{--x:{ a : b };--y: ;--z: ;c:var(--x,1px) var(--y,)}',
    ],
    [
      'a { *zoom : 1 ; _height : 1px ; filter : progid:DXImage.Y( a=1 , b="2" ) }',
      'a{*zoom:1;_height:1px;filter:progid:DXImage.Y( a=1 , b="2" )}',
    ],
    ['@unknown  x ( y )  { a { b : c } }', '@unknown x (y){a{b:c}}'],
    ['a { color: red; color: unheard-of(1 0 0) }', 'a{color:red;color:unheard-of(1 0 0)}'],
  ],
};

describe.each(Object.entries(cases))('minifying sheets: %s', (_, pairs) => {
  it.each(pairs)('%s', (before, after) => {
    expect(minified(before)).toBe(after);
    expect(minified(after)).toBe(after);
  });
});

describe.each((await styleRewriteHelp()).map((rewrite) => [rewrite.name, rewrite] as const))(
  'the rewrite %s',
  (_, { cases, doc, reference }) => {
    it('has a description and refers to a specification', () => {
      expect(doc).toMatch(/^\S.*\.$/);
      expect(reference).toMatch(/section|specification/);
    });

    it.each(cases)('%s', (before, after) => {
      expect(minified(before, casesAreFor)).toBe(after);
      expect(minified(after, casesAreFor)).toBe(after);
    });
  },
);

describe('minifying sheets', () => {
  it.each([
    ['ten thousand rules in each other', `${'a{'.repeat(10_000)}b:c${'}'.repeat(10_000)}`],
    ['ten thousand conditions in each other', `${'@media x{'.repeat(10_000)}a{b:c}${'}'.repeat(10_000)}`],
  ])('tells that %s are too deep, and leaves them', (_, text) => {
    for (const result of [minifyStyle(text), prefixStyle(text)])
      expect(result).toMatchObject({ text, diagnostics: [{ code: 'style-syntax' }] });
  });

  it.each([
    ['ten thousand brackets', `a{b:${'('.repeat(10_000)}1${')'.repeat(10_000)}}`, undefined],
    ['ten thousand selectors in each other', `a${':is(b'.repeat(10_000)}${')'.repeat(10_000)}{c:d}`, 'style-skipped'],
    ['a hundred thousand values', `a{b:${'c '.repeat(99_999)}c}`, undefined],
    [
      'fifty thousand selectors',
      `${Array.from({ length: 50_000 }, (__, at) => `.s${String(at)}`).join()}{a:b}`,
      undefined,
    ],
    ['no sheet but a page', '<!doctype html><html><body>x</body></html>', 'style-skipped'],
    ['no sheet but a picture', '\x89PNG\r\n\x1a\n\0\0\0\rIHDR', 'style-skipped'],
  ])('reads %s as a browser does', (_, text, code) => {
    const result = minifyStyle(text);
    expect(result.diagnostics.map((one) => one.code)).toEqual(code === undefined ? [] : [code]);
    expect(result.text.length).toBeGreaterThan(text.length * 0.9);
  });

  it('merges ten megabytes of the same rule on one line', () => {
    const rules = Array.from({ length: 50_000 }, (_, at) => `.${'selector'.repeat(24)}${String(at)}{color:red}`);
    const text = rules.join('');
    expect(text.length).toBeGreaterThan(1e7);
    expect(minifyStyle(text).text).toBe(`${rules.join().replaceAll('{color:red}', '')}{color:red}`);
  });

  it.each([
    ['a { b: c', 1, 3, 'a `{` is never closed'],
    ['a { b: c }\n}', 2, 1, 'a `}` closes nothing'],
    ['a { b: "c\n}', 1, 8, 'a string is not closed before the end of its line'],
    ['a { b: "c', 1, 8, 'a string is not closed'],
    ['a {}\n  /* b', 2, 3, 'a comment is not closed'],
    ['a { b: url(x y) }', 1, 8, 'a url( ) holds a sign'],
    ['a { b: (c }', 1, 11, 'a `(` is not closed before this `}`'],
    ['a { b: c) }', 1, 9, 'a `)` closes nothing'],
  ])('tells where a sheet falls apart, and leaves it: %s', (text, line, column, message) => {
    const result = minifyStyle(text, { file: 'x.css' });
    expect(result.text).toBe(text);
    expect(result.diagnostics).toMatchObject([
      { code: 'style-syntax', file: 'x.css', range: { start: { line, column } } },
    ]);
    expect(result.diagnostics[0]!.message).toContain(message);
  });

  it('warns of invalid parts, and keeps them', () => {
    const result = minifyStyle('a { b c; d: e }\nf:::g { h: i }\n', { file: 'x.css' });
    expect(result.diagnostics.map((one) => [one.code, one.severity, one.range?.start])).toEqual([
      ['style-skipped', 'warning', { line: 1, column: 5 }],
      ['style-skipped', 'warning', { line: 2, column: 1 }],
    ]);
    expect(result.text).toBe('a{b c;d:e}f:::g{h:i}');
  });

  it('parses a sheet with hundreds of errors like one with a few', () => {
    const parts = [
      ['a { b c; d: e }', 'a{b c;d:e}'],
      ['@media print { f:::g { h: i } j { k l; m: 0.5 } }', '@media print{f:::g{h:i}j{k l;m:.5}}'],
    ] as const;
    const lines = Array.from({ length: 400 }, (_, at) => parts[at % 2]!);
    const many = minifyStyle(lines.map(([before], at) => `.n${String(at)} {}\n${before}\n`).join(''));
    expect(many.diagnostics).toHaveLength(600);
    expect(many.diagnostics.at(-1)!.range!.start).toEqual({ line: 800, column: 35 });
    expect(many.text).toContain('a{b c;d:e');
    const inOne = minifyStyle(`a{${'b c;d:0.5px;'.repeat(300)}& i{e f;g:0.5px}}`);
    expect(inOne.diagnostics).toHaveLength(301);
    expect(inOne.text).toBe(`a{${'b c;d:.5px;'.repeat(300)}& i{e f;g:.5px}}`);
  });

  it('handles any text: it is rejected, or minified to a fixed point', () => {
    const piece = fc.constantFrom(
      'a',
      '.b',
      '#c',
      ':hover',
      '::before',
      '{',
      '}',
      '(',
      ')',
      '[',
      ']',
      ';',
      ':',
      ',',
      '"',
      "'",
      '\\',
      '/*',
      '*/',
      '@media',
      '@x',
      ' ',
      '\n',
      '0.50px',
      '-',
      '+',
      '!important',
      'url(',
      '#ffffff',
      '--x',
      'é',
      '&',
      '>',
      'nth-child(2n+1)',
      '@layer x{',
      '@scope (a){',
      'u\\72l(x)',
      '@im\\70ort "a";',
      '--t:{a:b}',
      ';;',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const head = pieces.length % 5 === 0 ? '\uFEFF' : pieces.length % 5 === 1 ? '@charset  "utf-8";' : '';
        const result = minifyStyle(head + pieces.join(''));
        if (result.diagnostics.length > 0) return;
        expect(minifyStyle(result.text).text).toBe(result.text);
      }),
      { numRuns: 1500, seed: 20_261_123 },
    );
  });

  it('reads blocks with declarations and rules in any order, and names by their value', () => {
    const sheets: Readonly<Record<string, string>> = {
      '.a{@layer x{letter-spacing:5px;& .b{}}}': '.a{@layer x{letter-spacing:5px}}',
      '@scope (.x){color:red;.b{}}': '@scope (.x){color:red}',
      '.b{.d{} --t:{a:b}; order:2}': '.b{--t:{a:b};order:2}',
      '@im\\70ort url(a.css);a{src:u\\72l(b)}': '@import"a.css";a{src:url(b)}',
      'a{margin-top:1px;m\\61rgin:9px;margin-top:2px}': 'a{margin:2px 9px 9px}',
      'a{o\\72 der:2.0}a{\\62 .c{--\\61:{m\\61rgin:0}}}': 'a{order:2.0}a{b.c{--a:{m\\61rgin:0}}}',
      '\uFEFFa{b:"ü"}': '\uFEFFa{b:"ü"}',
    };
    for (const [sheet, small] of Object.entries(sheets)) expect(minifyStyle(sheet).text).toBe(small);
    const { text } = prefixStyle('\uFEFF.a{@layer x{user-select:none;.b{}}}', { browsers: 'safari 15' });
    expect(text).toBe('\uFEFF.a{@layer x{-webkit-user-select:none;user-select:none;.b{}}}');
  });
});
