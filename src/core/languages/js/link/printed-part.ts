import type { Reference } from '../../references/reference.js';
import { TextBuilder, type MappedText, type SectionBuilder } from '../../source-maps/index.js';
import { AnalysisCache } from './analysis-cache.js';
import { copyEdited, type Edit } from './edits.js';
import { referenceAt } from './export-lines.js';
import type { ModuleText } from './module-text.js';

/** The printed code of a module, with its references at offsets in it. */
interface PrintedPart extends MappedText {
  readonly references: readonly Reference[];
}

/** Parts that were printed before: unchanged modules are neither copied nor mapped again. */
const printed = new AnalysisCache<PrintedPart>();

/** The last part that was printed with the same edits, which are found without comparing them. */
const lastParts = new WeakMap<readonly Edit[], { readonly form: string; readonly part: PrintedPart }>();

/** How the code of a module is printed. */
export interface PartForm {
  /** The text before the code. */
  readonly head: string;
  /** The text after the code. */
  readonly tail: string;
  readonly edits: readonly Edit[];
  /** The offset at which the code begins. */
  readonly start?: number;
}

/** Appends the code of a module with edits, and records its references. */
export function addPart(
  from: ModuleText,
  { head, tail, edits, start = 0 }: PartForm,
  references: Reference[],
  out: SectionBuilder,
): void {
  const form = JSON.stringify([from.version, out.maps, head, tail, start]);
  const last = from.version === undefined ? undefined : lastParts.get(edits);
  const part = last?.form === form ? last.part : printPart(from, { head, tail, edits, start }, out.maps);
  lastParts.set(edits, { form, part });
  const offset = out.text.length;
  for (const one of part.references) references.push({ ...one, start: one.start + offset, end: one.end + offset });
  out.addPart(part);
}

function printPart(from: ModuleText, { head, tail, edits, start }: Required<PartForm>, maps: boolean): PrintedPart {
  const key = JSON.stringify([maps, head, tail, edits, start]);
  const known = printed.get(from.version, key);
  if (known) return known;
  const references: Reference[] = [];
  const builder = new TextBuilder(maps);
  builder.add(head);
  const source = { text: from.text, map: from.map };
  copyEdited(source, edits, builder, (url, at, use) => references.push(referenceAt(url, at, use)), start);
  builder.add(tail);
  const part = { text: builder.text, map: builder.encodedMap(), references };
  printed.set(from.version, key, part.text.length, part);
  return part;
}
