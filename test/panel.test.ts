import type { Page } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { Pages } from './support/pages.js';
import { TestProject } from './support/project.js';

const pages = new Pages();
const visit = (path = ''): Promise<Page> => pages.visit(path);
const panel = 'loyal-anvil-problems section';

async function site(files: Readonly<Record<string, string>> = {}): Promise<TestProject> {
  const project = new TestProject({
    'anvil.yaml': `pipelines:
  styles: { from: styles/*.scss, steps: [compile], to: out }
  pages: { from: pages/*, to: out }
serve: { folder: out }
`,
    'styles/site.scss': 'p { color: #010101 }\n',
    'pages/index.html': '<!doctype html><link rel="stylesheet" href="site.css"><title>T</title><p>a</p><input>',
    ...files,
  });
  await pages.open(project);
  return project;
}

describe('the panel over the page', () => {
  it('shows each error with position, code and hint, and disappears when all are fixed', async () => {
    const project = await site();
    const page = await visit();
    await page.focus('input');
    project.write('styles/site.scss', '// Fernlight\np { color: $ember }\n');
    await page.waitForSelector(panel);
    expect(await page.textContent(`${panel} h1`)).toBe('1 error in styles');
    expect(await page.textContent(`${panel} .place`)).toContain('styles/site.scss:2:12');
    expect(await page.textContent(`${panel} .place small`)).toBe('sass');
    expect(await page.textContent(`${panel} .message`)).toBe('Undefined variable.');
    expect(await page.textContent(`${panel} mark`)).toBe('$ember');
    expect(await page.textContent(`${panel} .hint`)).toContain('Check the spelling');
    // The text field keeps the focus.
    expect(await page.evaluate(() => document.activeElement?.tagName)).toBe('INPUT');
    // A page that is opened now shows the panel, too.
    const other = await visit();
    await other.waitForSelector(panel);
    project.write('styles/site.scss', 'p { color: #020202 }\n');
    for (const one of [page, other]) {
      await one.waitForSelector(panel, { state: 'detached' });
      await one.waitForFunction(() => getComputedStyle(document.querySelector('p')!).color === 'rgb(2, 2, 2)');
    }
  });

  it('can be closed by button and key, and reappears only for other errors', async () => {
    const project = await site();
    const page = await visit();
    project.write('styles/site.scss', 'p { color: $a }\n');
    await page.waitForSelector(panel);
    const keys = await page.evaluateHandle(() => {
      const seen: string[] = [];
      addEventListener('keydown', ({ key }) => seen.push(key));
      return seen;
    });
    // With the keyboard only: the panel is the last element of the page.
    await page.focus('input');
    await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await page.waitForSelector(panel, { state: 'detached' });
    project.write('pages/other.html', 'a page that is good');
    await pages.serve.until(() => pages.serve.last('pages-updated')!['changed']!.toString() === '/other.html');
    expect(await page.$(panel)).toBeNull();
    project.write('styles/site.scss', 'p { color: $b }\n');
    await page.waitForSelector(panel);
    await page.focus(`${panel} ol`);
    await page.keyboard.press('Escape');
    await page.waitForSelector(panel, { state: 'detached' });
    expect(await keys.jsonValue()).toEqual(['Tab']);
  });

  it('shows errors of the project file, and of a site that was never built', async () => {
    const project = await site({ 'styles/site.scss': 'p { color: $never }', 'pages/index.html': '' });
    const missing = await visit('site.css');
    expect(await missing.textContent('h1')).toBe('Nothing at /site.css');
    await missing.waitForSelector(panel);
    const text = project.read('anvil.yaml');
    project.write('anvil.yaml', text.replace('pages/*', '[pages/*').replace('from: styles', 'form: styles'));
    await missing.waitForSelector(`${panel} :text("anvil.yaml:")`);
    project.write('anvil.yaml', text);
    await missing.waitForSelector(`${panel} :text("anvil.yaml:")`, { state: 'detached' });
    project.write('styles/site.scss', 'p { color: #010101 }');
    await missing.waitForFunction(() => document.body.textContent!.includes('color: #010101'));
  });

  it('does not affect the page, nor the page it', async () => {
    const project = await site({
      'pages/index.html': `<!doctype html><title>T</title><style>
        * { display: none !important; color: red !important; font-size: 40px !important }
        loyal-anvil-problems { position: static !important; width: 3px !important }
        html, body, p { display: block !important }
      </style><p>a</p>`,
    });
    const page = await visit();
    const before = await page.evaluate(() => [document.scripts.length, document.styleSheets.length, innerWidth]);
    project.write('styles/site.scss', 'p { color: $a }\n');
    await page.waitForSelector(panel);
    const box = (await page.locator(panel).boundingBox())!;
    const view = page.viewportSize()!;
    expect(Math.round(box.y + box.height)).toBe(view.height);
    expect(box.width).toBeGreaterThan(900);
    const style = await page.locator(`${panel} h1`).evaluate((one) => getComputedStyle(one).color);
    expect(style).not.toBe('rgb(255, 0, 0)');
    expect(await page.evaluate(() => [document.scripts.length, document.styleSheets.length, innerWidth])).toEqual(
      before,
    );
    expect(await page.evaluate(() => getComputedStyle(document.querySelector('p')!).display)).toBe('block');
  });

  it('has names and roles for those who do not see it, and contrast for those who do', async () => {
    const project = await site();
    const page = await visit();
    project.write('styles/site.scss', '@debug "x";\np { color: $a }\n');
    await page.waitForSelector(panel);
    await page.getByRole('dialog', { name: '1 error in styles' }).waitFor();
    await page.getByRole('button', { name: 'Close' }).waitFor();
    await page.getByRole('status').waitFor();
    for (const colorScheme of ['light', 'dark'] as const) {
      await page.emulateMedia({ colorScheme });
      const ratios = await page.evaluate(contrasts, panel);
      for (const [name, ratio] of ratios) expect([name, ratio >= 4.5]).toEqual([name, true]);
    }
  });
});

/** The contrast of each text of the panel with its background (WCAG 2.2, section 1.4.3). */
function contrasts(): (readonly [string, number])[] {
  const parts = (color: string): number[] => {
    const context = new OffscreenCanvas(1, 1).getContext('2d')!;
    context.fillStyle = color;
    context.fillRect(0, 0, 1, 1);
    return [...context.getImageData(0, 0, 1, 1).data];
  };
  const luminance = (color: string): number => {
    const [r, g, b] = parts(color)
      .slice(0, 3)
      .map((part) => part / 255)
      .map((part) => (part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4)) as [number, number, number];
    return 0.2126 * r + 0.7152 * g + 0.0722 * b;
  };
  const behind = (one: Element | null): string => {
    if (!one) return 'white';
    const color = getComputedStyle(one).backgroundColor;
    return parts(color)[3] === 255 ? color : behind(one.parentElement);
  };
  const root = document.querySelector('loyal-anvil-problems')!.shadowRoot!;
  return [...root.querySelectorAll('h1, button, b, small, .error, .message, .hint, footer, .number, mark')].map(
    (one) => {
      const [light, dark] = [luminance(getComputedStyle(one).color), luminance(behind(one))].sort((a, b) => b - a);
      return [`${one.tagName} ${one.className}`, (light! + 0.05) / (dark! + 0.05)] as const;
    },
  );
}
