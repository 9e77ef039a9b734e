import type { RewriteCase } from './rewrite.js';

export const cases: readonly RewriteCase[] = [
  [
    'a { color: #FF0000; background: #AABBCC; border-color: #00FF00FF; fill: #fFf; stroke: white }',
    'a{color:red;background:#abc;border-color:lime;fill:#fff;stroke:#fff}',
  ],
  [
    'a { color: rgb(255, 0, 0); background: rgba(0 128 0 / 1); outline: 1px solid rgb(300, 0, 0) }',
    'a{color:red;background:green;outline:1px solid red}',
  ],
  ['a { color: hsl(0, 0%, 124.9%); fill: hsl(120 150% 25% / .5) }', 'a{color:#fff;fill:#00800080}'],
  [
    'a { color: hsl(120, 100%, 25%); fill: hwb(240 0% 0%); stroke: rgb(10% 20% 30%) }',
    'a{color:green;fill:blue;stroke:#1a334d}',
  ],
  [
    'a { color: rgba(255, 0, 0, 0.6); fill: rgb(0 0 0 / 50%); stroke: transparent; background: hsla(0, 0%, 0%, .3) }',
    'a{color:#f009;fill:#00000080;stroke:#0000;background:#0000004d}',
  ],
  ['a { color: rgba(1, 2, 3, 0.555); fill: rgb(var(--x)) }', 'a{color:rgba(1,2,3,.555);fill:rgb(var(--x))}'],
  [
    'a { animation-name: white; font-family: white; grid-area: white; color: transparent; caret-color: CanvasText }',
    'a{animation-name:white;font-family:white;grid-area:white;color:#0000;caret-color:CanvasText}',
  ],
  [
    'a { background: linear-gradient( #FF0000 , #000080 ) ; mask: url(#ffffff) }',
    'a{background:linear-gradient(red,navy);mask:url(#ffffff)}',
  ],
  ['a { color: lab(50.0% 0 0); fill: color(display-p3 1 0 0) }', 'a{color:lab(50% 0 0);fill:color(display-p3 1 0 0)}'],
];
