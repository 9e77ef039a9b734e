import { copiedText, textOf, type Asset } from '../../assets/asset.js';
import { kindOf, type AssetKind } from '../../languages/formats.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, fail } from '../../diagnostics/index.js';
import { encodeAlike } from '../../files/text.js';
import { TextBuilder, type CopiedText } from '../../languages/source-maps/index.js';
import { joinScripts, type JoinProblem } from '../../languages/js/join.js';
import { explained, parseOrFail } from './parse.js';

/** Joins assets of one kind, in order, into one. */
export async function joinAssets(
  assets: readonly Asset[],
  into: string,
  banner: string | undefined,
  context: StepContext,
): Promise<Asset> {
  const kind = commonKind(assets, into);
  const { maps } = context.settings;
  const out = new TextBuilder(maps);
  const texts = assets.map(textOf);
  const parts = assets.map((asset, index) => copiedText(asset, texts[index]!, maps));
  const comment = banner === undefined ? undefined : asComment(banner);
  if (kind === 'style') await joinSheets(assets, parts, into, comment, out, context);
  else {
    const parsed = assets.map((asset, index) => ({
      from: parts[index]!,
      parsed: parseOrFail(asset, texts[index]!, context),
    }));
    for (const problem of joinScripts(parsed, comment, out)) context.report(explain(problem, assets, texts, context));
  }
  const map = out.map();
  const origins = [...new Set(assets.flatMap((asset) => asset.origins))];
  const bytes = encodeAlike(out.text, ...assets.map((asset) => asset.bytes));
  return { id: into, path: into, bytes, origins, isPristine: false, ...(map && { map }) };
}

const kindNames: Readonly<Record<AssetKind, string>> = {
  style: 'style sheets',
  script: 'scripts',
  other: 'other files',
};

function commonKind(assets: readonly Asset[], into: string): AssetKind {
  const kind = kindOf(into);
  for (const asset of assets) {
    const file = asset.origins[0] ?? asset.path;
    const own = kindOf(asset.path);
    if (own === 'other') fail('join-unknown', { file }, { file });
    if (own !== kind)
      fail(
        'join-kinds',
        {
          first: `a ${own === 'style' ? 'style sheet' : 'script'} (${file})`,
          second: kind === 'other' ? into : `${kindNames[kind]} (${into})`,
        },
        { file },
      );
  }
  return kind;
}

async function joinSheets(
  assets: readonly Asset[],
  parts: readonly CopiedText[],
  into: string,
  banner: string | undefined,
  out: TextBuilder,
  context: StepContext,
): Promise<void> {
  // Loaded when there are sheets: a build without any need not wait for the parser.
  const [{ joinStyles }, { parseStyle }] = await Promise.all([
    import('../../languages/css/join.js'),
    import('../../languages/css/parse.js'),
  ]);
  const sheets = assets.map((asset, index) => {
    const from = parts[index]!;
    return {
      from,
      path: asset.path,
      nodes: explained(asset, from.text, context, () => parseStyle(from.text)).sheet.children,
    };
  });
  joinStyles(sheets, into, banner, out);
}

function explain(
  problem: JoinProblem,
  assets: readonly Asset[],
  texts: readonly string[],
  context: StepContext,
): ReturnType<typeof diagnostic> {
  const asset = assets[problem.part]!;
  const place = context.place(asset, texts[problem.part]!, problem.offset, problem.offset + 1);
  if (problem.kind === 'module') return diagnostic('join-module', {}, place);
  if (problem.kind === 'twice')
    return diagnostic('join-twice', { name: problem.name, first: assets[problem.first]!.origins[0]! }, place);
  if (problem.kind === 'order')
    return diagnostic('join-order', { name: problem.name, file: assets[problem.declaredIn]!.origins[0]! }, place);
  return diagnostic('join-strict', { file: asset.origins[0]! }, place);
}

function asComment(banner: string): string {
  const text = banner.trim();
  return /^\/\*[^]*\*\/$/.test(text) && text.indexOf('*/') === text.length - 2
    ? text
    : `/*! ${text.replaceAll('*/', '* /')} */`;
}
