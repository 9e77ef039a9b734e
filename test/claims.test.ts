import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { globTest } from '#modules/core/files/globs.js';
import { ClaimIndex, claimsAfter, describeClaim, mayMatch } from '#modules/core/plan/claims.js';
import type { Claim, StepDefinition } from '#modules/core/config/steps.js';

const definition = (claims: StepDefinition['claims'], isAggregate = false): StepDefinition => ({
  name: 'test',
  doc: 'For tests.',
  gathers: () => isAggregate,
  options: class {},
  claims,
});

/** A step that replaces the extension `ts` by `js`, one that gathers, and one that writes unknown names. */
const compiling = definition((paths) => paths.map((path) => path.replace(/\.ts$/, '.js')));
const gathering = definition(() => ['all.js'], true);
const splitting = definition(() => [{ within: 'parts', pattern: '*.js' }]);

const after = (claims: readonly Claim[], step: StepDefinition, match?: string): string[] =>
  claimsAfter(claims, configured(step, match)).map(describeClaim);

function configured(definition: StepDefinition, match?: string): Parameters<typeof claimsAfter>[1] {
  const isAggregate = definition.gathers({});
  return { definition, options: {}, isAggregate, isAlways: false, ...(match !== undefined && { match }) };
}

describe('the claims after a step', () => {
  const shared: Claim = { within: 'js/shared', pattern: '*.ts' };

  it('are those of its assets, with others unchanged and in order', () => {
    expect(after(['a.ts', 'b/c.ts', 'd.css'], compiling)).toEqual(['a.js', 'b/c.js', 'd.css']);
    expect(after(['a.ts', 'b/c.ts'], compiling, 'b/*')).toEqual(['a.ts', 'b/c.js']);
    expect(after(['a.ts', 'b/a.ts'], compiling, 'a.*')).toEqual(['a.js', 'b/a.js']);
    expect(after(['a.js'], splitting)).toEqual(['parts/*.js']);
  });

  it('put the result of a step that gathers in place of its first asset', () => {
    expect(after(['x.css', 'a.js', 'y.css', 'b.js'], gathering, '*.js')).toEqual(['x.css', 'all.js', 'y.css']);
    expect(after(['x.css'], gathering, '*.js')).toEqual(['x.css']);
    expect(after(['a.js', shared], gathering)).toEqual(['all.js']);
  });

  it('pass a pattern through like a path, and keep it where only some assets may match', () => {
    expect(after([shared], compiling)).toEqual(['js/shared/*.js']);
    expect(after([shared], compiling, 'a.ts')).toEqual(['js/shared/*.ts', 'js/shared/*.js']);
    expect(claimsAfter([shared], configured(compiling))).toEqual([{ within: 'js/shared', pattern: '*.js' }]);
  });
});

describe('the index of claims', () => {
  const index = new ClaimIndex([
    { name: 'pages', claims: ['site/index.html', 'site/js/main.js'] },
    { name: 'app', claims: ['site/app.js', { within: 'site/js', pattern: 'shared-*.js' }] },
    { name: 'late', claims: ['site/index.html', { within: 'site/img', pattern: '**/*.png' }] },
  ]);

  it('finds the writer of a path: exact claims first, the first of several, maps with their files', () => {
    const paths = [
      'site/index.html',
      'site/js/shared-a.js',
      'site/img/deep/a.png',
      'site/js/other.js',
      'site/app.js.map',
    ];
    expect(paths.map((path) => index.writerOf(path))).toEqual(['pages', 'app', 'late', undefined, undefined]);
    expect(index.ownerOf('site/app.js.map')).toBe('app');
    expect(index.ownerOf('site/js/shared-a.js.map')).toBe('app');
  });

  it('finds the writers of files that a glob may match', () => {
    expect([...index.writersMatching('site/*.html')]).toEqual(['pages']);
    expect([...index.writersMatching('site/**/*.js')].sort()).toEqual(['app', 'pages']);
    expect([...index.writersMatching('site/img/*')]).toEqual(['late']);
    expect(index.writersOfFoldersMatching('site/app.js')).toEqual([]);
  });

  it('finds pipelines that may write the same file, which at least one claims by a pattern', () => {
    const collide = (a: Claim, b: Claim): boolean =>
      new ClaimIndex([
        { name: 'a', claims: [a] },
        { name: 'b', claims: [b] },
      ]).mayCollide('a', 'b');
    const parts: Claim = { within: 'parts', pattern: '*.js' };
    expect(collide(parts, 'parts/a.js')).toBe(true);
    expect(collide('parts/a.js', parts)).toBe(true);
    expect(collide(parts, { within: 'parts', pattern: 'a-*.js' })).toBe(true);
    expect(collide(parts, { within: 'parts', pattern: '*.css' })).toBe(false);
    expect(collide(parts, { within: 'parts/deep', pattern: '*.js' })).toBe(false);
    expect(collide(parts, 'parts/a.css')).toBe(false);
  });

  it('never misses a glob that matches a claimed file, whatever both are', () => {
    const name = fc.constantFrom('a', 'b', 'ab');
    const extension = fc.constantFrom('.js', '.css', '.min.js');
    const part = fc.constantFrom('*', 'a*', '*b', '?', '{a,ab}', '[ab]', '**', 'a', 'b', '!(a)');
    const folder = fc.array(name, { maxLength: 3 });
    const pattern = fc
      .tuple(fc.array(part, { maxLength: 3 }), fc.constantFrom('*', 'a*', '?', '{a,b}', '[!a]*', 'ab'), extension)
      .map(([parts, last, end]) => [...parts, `${last}${end}`].join('/'));
    const path = fc
      .tuple(folder, name, extension)
      .map(([folders, last, end]) => [...folders, `${last}${end}`].join('/'));
    fc.assert(
      fc.property(pattern, pattern, fc.array(path, { minLength: 20, maxLength: 20 }), (glob, claimed, paths) => {
        const claim = { within: 'in', pattern: claimed };
        const both = paths.find((one) => globTest(`in/${claimed}`)(`in/${one}`) && globTest(`in/${glob}`)(`in/${one}`));
        expect(
          both === undefined || mayMatch(`in/${glob}`, claim),
          `${glob} and ${claimed}, with ${String(both)}`,
        ).toBe(true);
      }),
      { numRuns: 500 },
    );
  });
});
