import { readFileSync } from 'node:fs';
import vm from 'node:vm';
import { describe, expect, it } from 'vitest';
import { TestProject } from './support/project.js';

const clone = new URL('../', import.meta.url).pathname;

const pages = 'pipelines: { pages: { from: "pages/**/*", to: site, steps: [render] } }\n';

const jobsOf = async (project: TestProject): Promise<string> =>
  /\d+ jobs? run/.exec((await project.build()).stdout)![0];

describe('render', () => {
  it('makes the pages of the documentation, with hashed names too', async () => {
    const project = TestProject.documented('templates.md');
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual([
      'site/css/site.css',
      'site/index.html',
      'site/stars/deneb.html',
      'site/stars/vega.html',
    ]);
    expect(project.read('site/index.html')).toContain('<a href="stars/deneb.html">Deneb</a>');
    expect(project.read('site/index.html')).toContain('Open from 20:00.');
    const star = project.read('site/stars/vega.html');
    expect(star).toContain('<html lang="en">');
    expect(star).toContain('<link rel="stylesheet" href="../css/site.css">');
    expect(star).toContain('<h1>Vega</h1>');
    project.write('anvil.yaml', `profiles: { production: { names: hashed } }\n${project.read('anvil.yaml')}`);
    await project.build();
    expect(project.read('site/stars/vega.html')).toMatch(/href="\.\.\/css\/site-\w{10}\.css"/);
  });

  it('renders a page again only if something that it uses has changed', async () => {
    const project = new TestProject({
      'anvil.yaml': pages,
      'pages/a.html': '---\nlayout: base\n---\n{{ hours.open }}',
      'pages/b.html': "---\nlayout: base\n---\n{% render 'foot' %}",
      'pages/c.html': "{% if stars %}{% render 'foot' %}{% endif %}",
      'layouts/base.html': '<main>{{ content }}</main>',
      'parts/foot.html': '<footer>',
      'data/hours.yaml': 'open: 20\n',
      'data/tides.json': '[]',
    });
    expect(await jobsOf(project)).toBe('3 jobs run');
    expect(project.read('site/a.html')).toBe('<main>20</main>');
    for (const [path, text, jobs] of [
      ['data/hours.yaml', 'open: 21\n', '1 job run'],
      ['data/tides.json', '[1]', '0 jobs run'],
      ['parts/foot.html', '<footer>!', '1 job run'],
      ['layouts/base.html', '<main>{{ content }}.</main>', '2 jobs run'],
      // A list of files has changed: it could have made any variable.
      ['data/stars.yaml', '- Vega\n', '3 jobs run'],
      ['parts/foot.html', '<footer>?', '2 jobs run'],
      // Found before the other one.
      ['parts/foot.liquid', '<footer>:', '2 jobs run'],
    ] as const) {
      project.write(path, text);
      expect(await jobsOf(project), path).toBe(jobs);
    }
    expect(['a', 'b', 'c'].map((name) => project.read(`site/${name}.html`))).toEqual([
      '<main>21.</main>',
      '<main><footer>:.</main>',
      '<footer>:',
    ]);
  });

  it('renders Markdown, Handlebars and Pug with the packages of the project', async () => {
    const project = TestProject.withPackages({
      'anvil.yaml': pages,
      'pages/hours.md': '---\nlayout: base\n---\n# Hours\n\nFrom *{{ hours.open }}*\n\n| a |\n|---|\n| 1 |\n',
      'pages/star.hbs':
        '---\nname: Vega\nlayout: base\n---\n<b>{{page.name}}</b>{{> foot mark="!"}}{{url "hours.html"}}',
      'pages/deep/moon.pug':
        '---\nname: Moon\n---\nextends base\nblock main\n  a(href=url("hours.html"))= page.name\n  include foot\n',
      'pages/feed.xml.liquid': '<feed>{{ page.path }}</feed>',
      'layouts/base.html': '<main>{{ content }}</main>',
      'layouts/base.pug': 'html\n  block main\n',
      'parts/foot.hbs': '<i>{{hours.open}}{{mark}}</i>',
      'parts/foot.pug': 'i= profile\n',
      'data/hours.yaml': 'open: 20\n',
    });
    // Pug templates are code, which the first build says.
    expect(await project.diagnose()).toMatchObject({
      code: 0,
      said: [expect.stringMatching(/: note \[template-code\]$/)],
    });
    expect(await project.diagnose(['build', '--force'])).toMatchObject({ code: 0, said: [] });
    expect(project.read('site/hours.html')).toMatch(
      /^<main><h1>Hours<\/h1>\n<p>From <em>20<\/em><\/p>\n<table>[^]*<\/main>$/,
    );
    expect(project.read('site/star.html')).toBe('<main><b>Vega</b><i>20!</i>hours.html</main>');
    expect(project.read('site/deep/moon.html')).toBe(
      '<!DOCTYPE html><html><a href="../hours.html">Moon</a><i>production</i></html>',
    );
    expect(project.read('site/feed.xml')).toBe('<feed>feed.xml</feed>');
    for (const path of ['parts/foot.hbs', 'layouts/base.pug', 'parts/foot.pug']) {
      project.write(path, path.endsWith('hbs') ? 'other' : `${project.read(path)}//\n`);
      expect(await jobsOf(project), path).toBe('1 job run');
    }
  });

  it.each<[string, Record<string, string>, string[]]>([
    [
      'an unknown variable',
      { 'pages/a.html': 'a\n{{ b }}{{ page.c }}\n{% if d %}{% endif %}' },
      ['pages/a.html:2:4: warning [template-variable]', 'pages/a.html:2:11: warning [template-variable]'],
    ],
    [
      'one in a part',
      { 'pages/a.html': "---\nx: 1\n---\n{% render 'p' %}", 'parts/p.html': '\n {{ b.c }}' },
      ['parts/p.html:2:5: warning [template-variable]'],
    ],
    [
      'one in Handlebars',
      { 'pages/a.hbs': '---\nx: 1\n---\n{{page.x}}\n  {{page.y}}' },
      ['pages/a.hbs:5:10: warning [template-variable]'],
    ],
    [
      'one in Pug',
      { 'pages/a.pug': '---\nx: 1\n---\np= page.x\np= stars' },
      ['pages/a.pug:5:4: warning [template-variable]'],
    ],
    [
      'wrong Liquid',
      { 'pages/a.html': '---\nx: 1\n---\n{% for %}{% endfor %}' },
      ['pages/a.html:4:1: error [template]'],
    ],
    ['a missing part', { 'pages/a.html': "\n{% render 'haed' %}" }, ['pages/a.html:2:1: error [template-missing]']],
    [
      'a part outside',
      { 'pages/a.html': "{% render '../pages/a' %}{% render '../../a' %}" },
      ['pages/a.html:1:1: error [template-missing]'],
    ],
    [
      'a missing layout',
      { 'pages/a.html': '---\nx: 1\nlayout: bsae\n---\n' },
      ['pages/a.html:3:1: error [template-missing]'],
    ],
    ['wrong Handlebars', { 'pages/a.hbs': 'a\n{{#if}}' }, ['pages/a.hbs:2:1: error [template]']],
    ['a missing Handlebars part', { 'pages/a.hbs': 'a\n {{> foot}}' }, ['pages/a.hbs:2:2: error [template-missing]']],
    [
      'a wrong call in a Handlebars part',
      { 'pages/a.hbs': '\n{{> f}}', 'parts/f.hbs': '---\nx: 1\n---\n {{#if}}x{{/if}}' },
      ['parts/f.hbs:4:2: error [template]'],
    ],
    [
      'a wrong mark in a layout',
      {
        'anvil.yaml': pages.replace('render', 'render, cut'),
        'pages/a.html': '---\nlayout: b\n---\n',
        'layouts/b.html': '\n<p>{{content}}\n  <!-- anvil: oops -->',
      },
      ['layouts/b.html:3:3: error [cut-mark]'],
    ],
    ['wrong Pug', { 'pages/a.pug': '---\nx: 1\n---\np\n  b(' }, ['pages/a.pug:5:5: error [template]']],
    ['what Pug cannot do', { 'pages/a.pug': '---\nx: 1\n---\np= page.y.z' }, ['pages/a.pug:4:1: error [template]']],
    ['wrong front matter', { 'pages/a.html': '---\nx: [1\n---\n' }, ['pages/a.html:2:4: error [yaml-syntax]']],
    [
      'wrong data',
      { 'pages/a.html': '{{ b }}', 'data/b.json': '{ "x": 1,\n  "y": tru }' },
      ['data/b.json:2:8: error [data-json]'],
    ],
    [
      'aliases that expand without end',
      {
        'pages/a.html': '{{ b }}',
        'data/b.yaml': `a0: &a0 [x]\n${Array.from({ length: 12 }, (_, at) => `a${String(at + 1)}: &a${String(at + 1)} [${`*a${String(at)},`.repeat(9)}]\n`).join('')}`,
      },
      ['data/b.yaml:5:30: error [yaml-alias-bomb]'],
    ],
  ])('reports %s at its place', async (_, files, said) => {
    const run = await TestProject.withPackages({ 'anvil.yaml': pages, ...files }).diagnose();
    expect(
      run.said.filter((one) => !one.includes('template-code')),
      run.stderr,
    ).toEqual(said);
    expect(run.code).toBe(said.some((one) => one.includes('error')) ? 1 : 0);
  });
});

describe('positions after render', () => {
  const templates: Readonly<Record<string, string>> = {
    'pages/liquid.html': `---
layout: base
---
{% capture nav %}<a href="dead-capture.html">x</a>
<a href="dead-captured.html">x</a>{% endcapture -%}
  <p>{{ page.path }} <a href="dead-page.html">x</a> {{- nav -}} </p>
{% for star in stars %}
  {%- render 'foot', star: star %}
{% endfor %}{% if stars %}<img src="dead-branch.png">{% endif %}
`,
    'pages/inherited.html': `{% layout 'outer.liquid' %}{% block main %}
  {{ page.path }}<a href="dead-block.html">x</a>{% endblock %}`,
    'pages/stars.hbs': `---
layout: frame.hbs
---
{{#each stars}}
  {{~this}} <a href="dead-each.html">x</a>
{{/each}}
<ul>
  {{> rows}}
</ul>
{{#if stars~}}  <a
  href="dead-if.html">x</a>{{/if}}
`,
    'pages/deep/moon.pug': `---
layout: base
---
extends ../../layouts/base
mixin card(name)
  b(class="card" title=name): a(href='dead-mixin.html')= name
block main
  each star in stars
    +card(star)
  p Some <a href="dead-inline.html">x</a> and #[a(href="dead-interpolated.html") y]
  include foot
  img(
    alt=""
    src="dead-attribute.png")
  if stars
    a(href="dead-condition.html")
`,
    'pages/hours.md': `---
layout: base
---
# Hours of [{{ stars[0] }}](dead-heading.html)

- *From* [a](dead-item.html)
  and [b][ref]

> ![c](dead-picture.png)

| a | [d](dead-cell.html) |
|---|---|
| 1 | \`x\` [e](dead-row.html) |

<p>
  <a href="dead-html.html">x</a></p>

{% render 'foot', star: 'Vega' %}

[ref]: dead-definition.html
`,
    'layouts/base.html': `<!DOCTYPE html><title>x</title>
<main>{{ content }}</main> <a href="dead-layout.html">x</a>
`,
    'layouts/outer.liquid': `<main>{% block main %}<a href="no">x</a>{% endblock %}</main><a href="dead-outer.html">x</a>`,
    'layouts/frame.hbs': `<main>
{{{content}}}</main><a href="dead-frame.html">x</a>`,
    'layouts/base.pug': `html
  body
    block main
    a(href="dead-base.html") x`,
    'parts/foot.html': `---
x: 1
---
<i>{{ star }}</i>
<a href="dead-part.html">x</a>`,
    'parts/rows.hbs': `<li>{{stars}}
  <a href="dead-rows.html">x</a>
</li>
`,
    'parts/foot.pug': 'p\n  a(href="dead-included.html")\n',
    'data/stars.yaml': '[Vega, Deneb]\n',
  };

  it.each<[string, string]>([
    ['render', ''],
    ['cut and render', 'cut, '],
  ])('are those in the templates: %s', async (_, before) => {
    for (const after of ['', ', { minify: { whiteSpace: collapse } }']) {
      const project = TestProject.withPackages({
        'anvil.yaml': `pipelines: { pages: { from: "pages/**/*", to: site, steps: [${before}render${after}] } }\n`,
        ...templates,
      });
      const run = await project.diagnose();
      const places = Object.entries(templates).flatMap(([file, text]) =>
        [...text.matchAll(/dead-[\w-]+\.\w+/g)].map(({ 0: name, index }) => {
          const lines = text.slice(0, index).split('\n');
          return `${name} ${file}:${String(lines.length)}:${String(lines.at(-1)!.length + 1)}`;
        }),
      );
      const found = [...run.stderr.matchAll(/^(\S+:\d+:\d+|\S+): warning: .*?(dead-[\w-]+\.\w+)/gm)];
      expect([...new Set(found.map(([, place, name]) => `${name!} ${place!}`))].sort(), run.stderr).toEqual(
        places.sort(),
      );
    }
  });
});

describe('compile', () => {
  it('compiles other languages with the packages of the project, and notices their imports', async () => {
    const project = TestProject.withPackages({
      'anvil.yaml': `browsers: chrome 40
profiles: { production: { maps: file } }
pipelines:
  styles: { from: less/site.less, to: site, steps: [compile] }
  scripts: { from: src/main.coffee, to: site, steps: [compile, link] }
  templates: { from: "src/*.{hbs,pug}", to: site, steps: [{ compile: { templates: Fern.templates } }, { join: templates.js }] }
`,
      'less/site.less': '@import "parts/colors";\n.sky { color: @night; }\n',
      'less/parts/colors.less': '@night: #123456;\n',
      'src/main.coffee':
        "import card from './card.hbs'\nimport star from './star.pug'\nimport note from './note.md'\nlog = (text) => console.log text\nlog card(name: 'Vega') + star(name: 'Deneb') + note\n",
      'src/card.hbs': '<b>{{name}}</b>{{> row}}',
      'src/row.hbs': '<i>{{name}}</i>',
      'src/star.pug': 'p= name\n',
      'src/note.md': '# Note\n',
    });
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.read('site/site.css')).toBe('.sky {\n  color: #123456;\n}\n/*# sourceMappingURL=site.css.map */\n');
    expect(JSON.parse(project.read('site/site.css.map'))).toMatchObject({ sources: ['../less/site.less'] });
    const said: string[] = [];
    new Function('console', project.read('site/main.js'))({ log: (text: string) => said.push(text) });
    expect(said).toEqual(['<b>Vega</b><i>Vega</i><p>Deneb</p><h1>Note</h1>\n']);
    const page: { window?: object; Fern?: { templates: Record<string, (values: object) => string> } } = {};
    page.window = vm.createContext(page);
    const runtime = readFileSync(`${clone}node_modules/handlebars/dist/handlebars.runtime.js`, 'utf8');
    for (const script of [runtime, project.read('site/templates.js')]) vm.runInContext(script, page);
    const { card, star } = page.Fern!.templates;
    expect(card!({ name: 'Vega' }) + star!({ name: '<' })).toBe('<b>Vega</b><i>Vega</i><p>&lt;</p>');
    project.write('less/parts/colors.less', '@night: #654321;\n');
    expect(await jobsOf(project)).toBe('1 job run');
    expect(project.read('site/site.css')).toContain('#654321');
  });

  it.each<[string, string, string]>([
    ['a.less', '.sky {\n  color: @nigth;\n}\n', 'a.less:2:10: error [compiler]'],
    ['a.less', '.sky {\n', 'a.less:2:1: error [compiler]'],
    ['a.less', '\n@import "none";\n', 'a.less:2:1: error [compiler]'],
    ['a.coffee', 'a = 1\nb = (x) -> x +\n', 'a.coffee:2:15: error [compiler]'],
    ['a.pug', 'p\n  b(\n', 'a.pug:3:1: error [template]'],
    ['a.hbs', 'a\n{{#if}}', 'a.hbs:2:1: error [template]'],
    ['a.hbs', '\n {{> none}}', 'a.hbs:2:2: error [template-missing]'],
  ])('reports mistakes in %s at their place: %j', async (file, text, said) => {
    const files = { 'anvil.yaml': `pipelines: { one: { from: ${file}, to: site, steps: [compile] } }\n`, [file]: text };
    const run = await TestProject.withPackages(files).diagnose();
    expect(run.said, run.stderr).toEqual([said]);
    expect((await new TestProject(files).diagnose()).said).toEqual([`${file}: error [package-missing]`]);
  });
});
