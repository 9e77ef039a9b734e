// Makes docs/minify.md and docs/prefix.md from the rewrites and tables of the built program, and from examples that are
// run when the pages are made.
import {
  casesAreFor,
  minifyScript,
  minifyStyle,
  prefixFeatures,
  prefixStyle,
  rewrittenBody,
  scriptRewriteHelp,
  styleRewriteHelp,
  type PrefixFeature,
} from 'loyal-anvil';
import { prefixExamples } from './prefix-examples.js';

const block = (text: string): string => `\`\`\`css\n${text.trimEnd()}\n\`\`\``;

/** The page of `minify`. */
export function minifyPage(): string {
  const sections = styleRewriteHelp.map(({ name, doc, reference, cases }) => {
    const examples = cases.map(([before]) => `${before}\n${minifyStyle(before, { browsers: casesAreFor }).text}`);
    return `### ${name}\n\n${doc} (${reference})\n\n${block(examples.join('\n\n'))}\n`;
  });
  return `# minify

This page is made by \`npm run docs\`. Every example on it is run, and each is also a test.

\`minify\` makes style sheets and scripts smaller without changing what they do.

${scripts()}
## Style sheets

The examples are for ${casesAreFor}. The sheet is parsed as browsers parse it (CSS Syntax Level 3), every rewrite below looks at every part of it, from the inside out, until none has anything to do, and the tree is printed in as few characters as its grammar allows. Minifying a second time changes nothing.

- **Target browsers decide** what may be written: \`browsers\` of the project file, with the browser compatibility data ${prefixFeatures().data}.
- **Fallbacks stay.** Two declarations of one property are how authors serve older browsers; the first goes only where every target browser that takes it takes the second too.
- **What browsers skip stays as it is written**, and is told (\`style-skipped\`). Sheets that fall apart are an error, and nothing is written.
- **Order decides**: rules are only moved past others that cannot meet them: other properties, another specificity, or the same value.
- **Custom properties keep their text**, and so do values with \`var()\`, of which only numbers are shortened: browsers keep both as text, and scripts can read it.
- **Comments go**, but for licences (\`@license\`, \`@preserve\`, \`@copyright\`) and those that begin with \`/*!\`.
- Not done, since something can tell the difference: \`border: none\` as \`border: 0\` (another rule may set the style alone), \`border\` from its parts (it also resets the border image), other colour spaces as sRGB, selectors as other selectors.

## Rewrites of style sheets

${sections.join('\n')}`;
}

const scriptBlock = (text: string): string => `\`\`\`js\n${text.trimEnd()}\n\`\`\``;

/** What the options of the step do to one script. */
const optionExamples: readonly { title: string; options: Parameters<typeof minifyScript>[1] }[] = [
  { title: 'without any option', options: {} },
  { title: '`renameGlobals: true`', options: { renameGlobals: true } },
  { title: '`renameProperties: [_place]`', options: { renameProperties: ['_place'] } },
  { title: '`preserveNames: true`', options: { preserveNames: true } },
  { title: '`without: [console, debugger]`', options: { without: ['console', 'debugger'] } },
  { title: '`assume: methods`', options: { assume: 'methods' } },
  { title: '`licences: none`', options: { licences: 'none' } },
  { title: '`ascii: true`', options: { ascii: true } },
  { title: 'the profile’s `constants: { DEBUG: false }`', options: { constants: { DEBUG: false } } },
];

const optionScript = `/*! Fernlight Observatory */
function showTonight(guests) {
  if (DEBUG) console.log('guests', guests);
  const greeting = function greet(name) { return 'Grüße, ' + name; };
  guests._place = { dome: function () { return 'North'; } };
  return guests.map(greeting);
}
document.title = showTonight(['Ada']).join();`;

function scripts(): string {
  const sections = scriptRewriteHelp.map(({ name, doc, reference, cases }) => {
    const examples = cases.map(([before]) => `${before}\n// ${rewrittenBody(before, name)}`);
    return `### ${name}\n\n${doc} (ECMA-262, ${reference})\n\n${scriptBlock(examples.join('\n\n'))}\n`;
  });
  const options = optionExamples.map(
    ({ title, options: chosen }) => `${title}:\n\n${scriptBlock(minifyScript(optionScript, chosen).text)}\n`,
  );
  return `## Scripts

The script is parsed as the language says (ECMA-262), every identifier is tied to what it stands for, every rewrite below looks at every part of it, from the inside out and in rounds, until none has anything to do; then two passes change whole functions (\`inline-calls\` and \`coalescing\`, at the end of the list), names get shorter, and the tree is printed in as few characters as the grammar allows.

- **Names**: local variables, functions, classes, parameters, imports, labels and private names are renamed. What a script declares at its top is seen by other scripts, and stays unless \`renameGlobals\` says otherwise; in modules nobody else sees it. Properties never change, unless \`renameProperties\` lists them. What \`eval\` or \`with\` may see keeps its name and its value.
- **What is not known may do anything**: a property may be a getter, an operator may call \`valueOf\`, a name that nothing declares may be missing, a \`let\` may be read too early. Nothing of that goes or changes its order. Calls marked \`/* #__PURE__ */\` may go when nobody uses what they return.
- **Not kept**: what a function gives as its source text, and the value of the last statement of a script for programs that run it as text; names of functions and classes, unless \`preserveNames\` is set. A function that is called at one place is made anew there each time it is called.
- **Target browsers decide** what may be written: arrow functions, templates, \`catch\` without a name, \`??\`, \`?.\`.
- **Comments go**, but for licences (\`@license\`, \`@preserve\`, \`@copyright\`) and those that begin with \`!\`; \`licences\` says where these go.
- **Source maps** lead from every name to where it was written and what it was called.

### Options

The script

${scriptBlock(optionScript)}

becomes

${options.join('\n')}
## Rewrites of scripts

The examples are bodies of functions with the parameters \`a\` to \`h\`, whose names are left as they are here, for target browsers that know ES2022; the comment is what comes of them.

${sections.join('\n')}`;
}

/** The page of `prefix`. */
export function prefixPage(): string {
  const { data, features } = prefixFeatures();
  const examples = prefixExamples.map(({ title, text, before, browsers, ...choices }) => {
    const after = prefixStyle(before, { browsers, ...choices }).text;
    return `### ${title}\n\n${text}\n\n${block(before)}\n\nfor \`${browsers}\` becomes\n\n${block(after)}\n`;
  });
  return `# prefix

This page is made by \`npm run docs\` from the browser compatibility data ${data}; every row of its tables is a test, and the examples were run.

\`prefix\` adds to style sheets what some target browsers know only with a vendor prefix or under another name, each time before the standard spelling, and nothing else. \`browsers\` in the project file says which browsers these are, and \`loyal-anvil list --browsers\` shows them, with what each of them asks for. What the author has written stays, and is not added again.

| option | what it does |
|---|---|
| \`tidy: true\` | removes prefixed spellings from the sources that no target browser needs, where the standard one stands beside them |
| \`grid: true\` | writes grids also in the way of Internet Explorer and the first Edge, where these are targeted; they do not place items by themselves and know no areas |

A comment leaves something as it is written: \`/* anvil: as written */\` the declaration or rule that follows, \`/* anvil: as written, whole file */\` the sheet.

Of a browser whose standard spelling works only in part, the data is followed: the prefixed one is added where that works in full. Features behind a flag, and those of previews, do not count. The oldest form of gradients, \`-webkit-gradient()\`, is not written.

## Examples

${examples.join('\n')}
## Every feature

The versions are those up to which a browser needs the other name.

${(['property', 'value', 'function', 'at-rule', 'selector', 'other'] as const)
  .map((kind) =>
    rows(
      kind,
      features.filter((one) => one.kind === kind),
    ),
  )
  .join('\n')}`;
}

const shown = ['chrome', 'edge', 'firefox', 'safari', 'safari_ios', 'ie'] as const;

function rows(title: string, features: readonly PrefixFeature[]): string {
  const lines = features.map(
    ({ name, spelling, versions }) =>
      `| \`${name}\` | \`${spelling}\` | ${shown.map((browser) => until(versions[browser] ?? [])).join(' | ')} |`,
  );
  return `| ${title} | other name | ${shown.join(' | ')} |\n|---|---|${'---|'.repeat(shown.length)}\n${lines.join('\n')}\n`;
}

/** The version in which a need ends. */
function until(spans: PrefixFeature['versions'][string]): string {
  if (spans.length === 0) return '';
  const ends = spans.map(([, to]) => to);
  return ends.includes(null) ? 'always' : `< ${ends.map(String).sort((a, b) => Number(b) - Number(a))[0]!}`;
}
