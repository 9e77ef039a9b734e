import fc from 'fast-check';
import { minifyStyle } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';

const minified = (text: string): string => {
  const result = minifyStyle(text);
  expect(result.diagnostics).toEqual([]);
  return result.text;
};

/** What goes in and what comes out, by the rewrite or the part of the printer that does it. */
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
    ['a { width : calc( 1px + ( 2px * 3 ) - -4px / 5 ) ; }', 'a{width:calc(1px + (2px*3) - -4px/5)}'],
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
  numbers: [
    ['a { margin: 0.50px 00.5em +1.0px -0.0px; opacity: .80 }', 'a{margin:.5px.5em 1px 0;opacity:.8}'],
    [
      'a { line-height: 1.0; width: 1.50E3px; z-index: 010; x: 1e+2 1e-2 }',
      'a{line-height:1;width:1.5e3px;z-index:10;x:1e2 1e-2}',
    ],
    ['a { width: 12345678901234567890.12345678901234567890px }', 'a{width:12345678901234567890.1234567890123456789px}'],
    ['a { width: calc(1px / -0.0) }', 'a{width:calc(1px/-0)}'],
  ],
  zeros: [
    [
      'a { margin: 0px; padding: 0em 0rem; transform: translate(0px, 0vw); box-shadow: 0px 0px 1px red }',
      'a{margin:0;padding:0;transform:translate(0,0);box-shadow:0 0 1px red}',
    ],
    [
      'a { transition: all 0s; flex: 1 1 0px; line-height: 0px; width: calc(0px + 1%); rotate: 0deg; opacity: 0% }',
      'a{transition:all 0s;flex:1 1 0px;line-height:0px;width:calc(0px + 1%);rotate:0deg;opacity:0%}',
    ],
    ['a { border-image-width: 0px; unknown: 0px; --x: 0px }', 'a{border-image-width:0px;unknown:0px;--x:0px}'],
  ],
  colors: [
    [
      'a { color: #FF0000; background: #AABBCC; border-color: #00FF00FF; fill: #fFf; stroke: white }',
      'a{color:red;background:#abc;border-color:#0f0;fill:#fff;stroke:#fff}',
    ],
    [
      'a { color: rgb(255, 0, 0); background: rgba(0 128 0 / 1); outline: 1px solid rgb(300, 0, 0) }',
      'a{color:red;background:green;outline:1px solid red}',
    ],
    [
      'a { color: rgba(255, 0, 0, 0.5); background: rgb(10% 20% 30%); fill: rgb(var(--x)); color: #f00a }',
      'a{color:rgba(255,0,0,.5);background:rgb(10% 20% 30%);fill:rgb(var(--x));color:#f00a}',
    ],
    [
      'a { animation-name: white; font-family: white; grid-area: white; color: transparent; color: CanvasText }',
      'a{animation-name:white;font-family:white;grid-area:white;color:transparent;color:CanvasText}',
    ],
    [
      'a { background: linear-gradient( #FF0000 , #000080 ) ; background: url(#ffffff) }',
      'a{background:linear-gradient(red,navy);background:url(#ffffff)}',
    ],
  ],
  'font-weights': [
    [
      'a { font-weight: bold; font: bold 1px x; } b { font-weight: normal; font: normal 1px bold-face }',
      'a{font-weight:700;font:700 1px x}b{font-weight:400;font:normal 1px bold-face}',
    ],
  ],
  sides: [
    [
      'a { margin: 1px 1px 1px 1px; padding: 1px 2px 1px 2px; inset: 1px 2px 3px 2px; border-width: 1px 2px 3px 4px }',
      'a{margin:1px;padding:1px 2px;inset:1px 2px 3px;border-width:1px 2px 3px 4px}',
    ],
    [
      'a { margin: var(--x) var(--x); border-radius: 1px 1px / 2px }',
      'a{margin:var(--x) var(--x);border-radius:1px 1px/2px}',
    ],
  ],
  'pseudo-elements': [
    [
      'a::before, b::AFTER, c::first-line, d::placeholder, e::part(x) { f: g }',
      'a:before,b:AFTER,c:first-line,d::placeholder,e::part(x){f:g}',
    ],
  ],
  'keyframe-names': [
    [
      '@keyframes x { from { a: b } 50.0%, 100% { a: c } } @-webkit-keyframes y { FROM { a: b } }',
      '@keyframes x{0%{a:b}50%,to{a:c}}@-webkit-keyframes y{0%{a:b}}',
    ],
  ],
  imports: [
    ['@import url( "a.css" ) layer( x ) screen ; @import url(b.css);', '@import"a.css" layer(x) screen;@import"b.css"'],
  ],
  charset: [
    ['@charset "utf-8"; a { b: c }', 'a{b:c}'],
    ['@charset "utf-8"; a { b: "ü" }', '@charset "utf-8";a{b:"ü"}'],
  ],
  'empty-rules': [
    [
      'a { } @media print { b { } } @supports (c: d) { } @layer e { } @keyframes f { } @font-face { }',
      '@layer e{}@keyframes f{}@font-face{}',
    ],
  ],
  'strings and addresses': [
    ["a { content: 'x'; quotes: '\"' \"'\" }", 'a{content:"x";quotes:\'"\'"\'"}'],
    [
      'a { b: url( "x y.png" ) url(\'z(1).png\') url("") url( data:image/png;base64,AA== ) url("a b(c).png") }',
      'a{b:url(x\\ y.png) url(z\\(1\\).png) url() url(data:image/png;base64,AA==) url("a b(c).png")}',
    ],
    ['a { content: "\\a b\\"" "\\201C" }', 'a{content:\'\\a b"\'"\u201c"}'],
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
    ['a { color: red; color: color(display-p3 1 0 0) }', 'a{color:red;color:color(display-p3 1 0 0)}'],
  ],
};

describe.each(Object.entries(cases))('minifying sheets: %s', (_, pairs) => {
  it.each(pairs)('%s', (before, after) => {
    expect(minified(before)).toBe(after);
    expect(minified(after)).toBe(after);
  });
});

describe('minifying sheets', () => {
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

  it('warns of what browsers skip, and keeps it', () => {
    const result = minifyStyle('a { b c; d: e }\nf:::g { h: i }\n', { file: 'x.css' });
    expect(result.diagnostics.map((one) => [one.code, one.severity, one.range?.start])).toEqual([
      ['style-skipped', 'warning', { line: 1, column: 5 }],
      ['style-skipped', 'warning', { line: 2, column: 1 }],
    ]);
    expect(result.text).toBe('a{b c;d:e}f:::g{h:i}');
  });

  it('survives any text: it is told of, or minified for good', () => {
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
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const result = minifyStyle(pieces.join(''));
        if (result.diagnostics.length > 0) return;
        expect(minifyStyle(result.text).text).toBe(result.text);
      }),
      { numRuns: 1500, seed: 20_261_123 },
    );
  });
});
