import { copiedText, textOf, withMap, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, DiagnosticError, nearestWord, type Diagnostic } from '../../diagnostics/index.js';
import { marksIn, type Mark } from '../../languages/marks.js';
import { TextBuilder } from '../../languages/source-maps/index.js';

/** A part that has begun. */
interface OpenPart {
  readonly mark: Mark;
  readonly isKept: boolean;
}

/**
 * Removes the parts of a text that are for other profiles, and all comments that say so.
 *
 * @throws DiagnosticError with all comments that are not understood, and parts that do not end
 */
export function cutAsset(asset: Asset, context: StepContext): Asset {
  const text = textOf(asset);
  if (!text.includes('anvil:')) return asset;
  const { maps, profiles } = context.settings;
  const found: Diagnostic[] = [];
  const out = new TextBuilder(maps);
  const from = copiedText(asset, text, maps);
  const report = (one: Diagnostic): number => found.push(one);
  const place = ({ start, end }: Mark): ReturnType<StepContext['place']> => context.place(asset, text, start, end);
  const open: OpenPart[] = [];
  let at = 0;
  for (const mark of marksIn(text)) {
    const isKept = open.every((one) => one.isKept);
    if (isKept) out.copy(from, at, mark.lineStart);
    at = mark.lineEnd;
    const [, names] = /^only\s+(\S.*)$/.exec(mark.words) ?? [];
    if (mark.words === 'end') {
      if (!open.pop()) report(diagnostic('cut-end', {}, place(mark)));
    } else if (names === undefined) report(diagnostic('cut-mark', { words: mark.words }, place(mark)));
    else {
      const wanted = names.split(',').map((name) => name.trim());
      for (const name of wanted)
        if (!profiles.all.includes(name))
          report(diagnostic('cut-profile', { name, near: nearestWord(name, profiles.all) }, place(mark)));
      open.push({ mark, isKept: wanted.some((name) => profiles.lineage.includes(name)) });
    }
  }
  for (const { mark } of open) report(diagnostic('cut-open', {}, place(mark)));
  if (found.length > 0) throw new DiagnosticError(...found);
  if (at === 0) return asset;
  out.copy(from, at);
  return withMap(asset, out.text, out.map());
}
