import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Browser } from 'playwright-core';
import { openBrowser } from './support/browser.js';
import { TestProject, pipeline } from './support/project.js';
import { RandomPage } from './support/random-page.js';

const projectOf = (pages: Readonly<Record<string, string>>, options = ''): TestProject =>
  new TestProject({
    'anvil.yaml': pipeline(`from: src/*.html\nto: site\nsteps: [{ minify: { ${options} } }]`),
    ...Object.fromEntries(Object.entries(pages).map(([name, text]) => [`src/${name}.html`, text])),
  });

/** The text of a minified page. */
async function minified(text: string, options = ''): Promise<string> {
  const project = projectOf({ page: text }, options);
  await project.build();
  return project.read('site/page.html');
}

/** The boxes of all elements, and the text that a page shows. */
const looks = async (page: Page, html: string): Promise<string> => {
  await page.setContent(html);
  return page.evaluate(() =>
    JSON.stringify([
      [...document.body.querySelectorAll('*')].map((element) => {
        const { x, y, width, height } = element.getBoundingClientRect();
        return [element.tagName, x, y, width, height].join(' ');
      }),
      document.body.innerText,
      document.title,
      [...document.querySelectorAll('textarea, select, input')].map((one) => (one as HTMLInputElement).value),
    ]),
  );
};

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());

describe('minified pages', () => {
  it('have the same boxes and texts as before, and are smaller', async () => {
    const texts = Object.fromEntries(
      Array.from({ length: 60 }, (_, at) => [`p${String(at)}`, new RandomPage(at + 1).text()]),
    );
    const project = projectOf(texts);
    await project.build();
    const page = await browser.newPage();
    let [before, after] = [0, 0];
    for (const [name, text] of Object.entries(texts)) {
      const short = project.read(`site/${name}.html`);
      expect(await looks(page, short), name).toBe(await looks(page, text));
      before += text.length;
      after += short.length;
    }
    expect(after / before).toBeLessThan(0.8);
    await page.close();
  });

  it('are the same when they are minified again', async () => {
    const texts = Object.fromEntries(
      Array.from({ length: 20 }, (_, at) => [`p${String(at)}`, new RandomPage(at + 101).text()]),
    );
    const once = projectOf(texts);
    await once.build();
    const short = Object.fromEntries(Object.keys(texts).map((name) => [name, once.read(`site/${name}.html`)]));
    const twice = projectOf(short);
    await twice.build();
    for (const [name, text] of Object.entries(short)) expect(twice.read(`site/${name}.html`), name).toBe(text);
  });

  it('lose comments, quotes and white space that mean nothing, and keep everything else as it is written', async () => {
    expect(
      await minified(`<!doctype html>
<html lang="en">
  <head>
    <!-- a comment -->
    <link rel="stylesheet" type="text/css" media="all" href="css/site.css" />
    <script type="text/javascript" src="a.js" async=""></script>
    <style>
      p { color: #ff0000; }
    </style>
  </head>
  <body>
    <!--! Fernlight Observatory -->
    <P class="a b" title='' data-n="1/">Clear   <b>skies</b>
      tonight</P>
    <pre>
  one   two</pre>
    <?php echo "night" ?>
    <svg viewBox="0 0 1 1"><path d="M0 0" fill="red"/></svg>
    <script>
      // Prints the first star.
      var first = document.querySelector( 'b' );
      console.log( first );
    </script>
  </body>
</html>
`),
    ).toBe(`<!doctype html>
<html lang=en><head><link rel=stylesheet href=css/site.css><script src=a.js async></script><style>p{color:red}</style></head><body>
<!--! Fernlight Observatory -->
<P class="a b" title data-n="1/">Clear <b>skies</b>
tonight</P>
<pre>
  one   two</pre>
<?php echo "night" ?>
<svg viewBox="0 0 1 1"><path d="M0 0" fill=red /></svg>
<script>var first=document.querySelector("b");console.log(first)</script>
</body></html>
`);
  });

  it('lose white space next to blocks on request', async () => {
    const text =
      '<ul>\n  <li> one </li>\n  <li><b>two</b> </li>\n</ul>\n<p> a <i>b</i> c </p><p> \u00a0d\u00a0 </p>\n<p>e\f </p>\n';
    expect(await minified(text, 'whiteSpace: blocks')).toBe(
      '<ul><li>one</li><li><b>two</b></li></ul><p>a <i>b</i> c</p><p>\u00a0d\u00a0</p><p>e\f</p>',
    );
    expect(await minified(text, 'whiteSpace: keep')).toBe(text);
  });

  it('keep scripts and style sheets with errors, with a warning at their place', async () => {
    const project = projectOf({ page: '<p>a</p>\n<script>\n  let = ;\n</script>\n<script>let b  = 1 ;</script>\n' });
    const { code, said } = await project.diagnose();
    expect([code, said]).toEqual([0, ['src/page.html:3:9: warning [script-syntax]']]);
    expect(project.read('site/page.html')).toBe('<p>a</p>\n<script>\n  let = ;\n</script>\n<script>let b=1</script>\n');
  });

  it('lose white space with a warning if a style sheet of the site shows it, unless an option decides', async () => {
    const sheet = `pre, div > code.long { white-space: pre-wrap }
.note { white-space: nowrap }
@media screen { .poem:first-child, pre { WHITE-SPACE: pre-line } }
`;
    const said = async (options: string): Promise<readonly string[]> => {
      const project = projectOf({ page: '<p class="poem">Stars\n\n  over the bay</p>\n' }, options);
      const styles = '  styles: { from: src/*.scss, to: site, steps: [compile] }\n';
      project.write('anvil.yaml', `${project.read('anvil.yaml')}${styles}`);
      project.write('src/a.scss', sheet);
      const first = await project.diagnose();
      // A build with nothing to do says it again.
      expect(await project.diagnose()).toMatchObject({ code: 0, said: first.said });
      project.write('src/a.scss', sheet.replace('.poem:first-child, pre', 'pre'));
      expect(await project.diagnose()).toMatchObject({ code: 0, said: [] });
      return first.said;
    };
    expect(await said('')).toEqual(['src/a.scss:3:42: warning [white-space-shown]']);
    for (const option of ['collapse', 'blocks', 'keep']) expect(await said(`whiteSpace: ${option}`)).toEqual([]);
  });

  it('are unchanged where a change could show', async () => {
    const unchanged = [
      '<p style="white-space: pre">a   b</p>',
      '<div contenteditable>a   b</div>',
      '<textarea>  a\n\n  b</textarea>',
      '<p><code>a   b</code> c</p>',
      '<style>i{white-space:pre-line}</style><p>a   b</p>',
      '<!--[if mso]><p>old</p><![endif]--><p>a</p>',
      '<!--#include virtual="head.html" --><p>a</p>',
      '<svg><text>a   b</text></svg>',
      '<input type="text" required="required">',
      '<p title="a b" data-x="\'" lang="">a</p>',
      '<script type=text/template><p>  a  </p></script>',
      '<script>x="<!--<script>"</script>',
    ].map((text) => [
      text,
      text.replace(' lang=""', ' lang').replace('type="text" required="required"', 'type=text required=required'),
    ]);
    for (const [text, wanted] of unchanged) expect(await minified(text!)).toBe(wanted);
  });

  it('have their scripts minified for the target browsers, without renaming what other scripts use', async () => {
    const text = `<script>
  function greet ( visitor ) { return \`Good evening, \${ visitor }\`; }
</script>
<button onclick="greet('you')">Greet</button>
<script type="module">
  const answer = 6 * 7;
  console.log( answer, DEBUG );
</script>
<script type="importmap">
  { "imports": { "sky  map": "./sky.js" } }
</script>
`;
    const project = projectOf({ page: text });
    project.write(
      'anvil.yaml',
      `profiles: { production: { constants: { DEBUG: false } } }\n${project.read('anvil.yaml')}`,
    );
    await project.build();
    expect(project.read('site/page.html'))
      .toBe(`<script>function greet(n){return\`Good evening, \${n}\`}</script><button onclick="greet('you')">Greet</button>
<script type=module>console.log(42,!1)</script>
<script type=importmap>{"imports":{"sky  map":"./sky.js"}}</script>
`);
  });
});
