import { mayBeUrl, type UrlText } from './reference.js';
import { isMap, isScalar, isSeq, parseDocument, type Node } from 'yaml';

/** A string in a JSON text, with its range, quotes included. */
export interface JsonText {
  readonly value: string;
  /** 0-based offsets. */
  readonly start: number;
  readonly end: number;
}

/** A value in a JSON text. */
export class JsonNode {
  constructor(private readonly node: unknown) {}

  /** Parses a text; undefined if it is not valid JSON. */
  static parse(text: string): JsonNode | undefined {
    try {
      JSON.parse(text);
    } catch {
      return undefined;
    }
    // JSON is YAML, and this parser tells where everything is.
    return new JsonNode(parseDocument(text, { schema: 'json', uniqueKeys: false }).contents);
  }

  /** The value of a member; nothing in particular for other values than objects. */
  member(name: string): JsonNode {
    return new JsonNode(isMap(this.node) ? this.node.get(name, true) : undefined);
  }

  /** The members of an object. */
  get members(): [name: string, value: JsonNode][] {
    if (!isMap(this.node)) return [];
    return this.node.items.map(({ key, value }) => [String(isScalar(key) ? key.value : key), new JsonNode(value)]);
  }

  /** The items of an array. */
  get items(): JsonNode[] {
    return isSeq(this.node) ? this.node.items.map((item) => new JsonNode(item)) : [];
  }

  /** The value as a string; undefined for others. */
  get text(): JsonText | undefined {
    if (!isScalar(this.node) || typeof this.node.value !== 'string') return undefined;
    const [start = 0, end = 0] = (this.node as Node).range ?? [];
    return { value: this.node.value, start, end };
  }
}

/** All strings in a JSON text that may be URLs, keys left out. */
export function jsonUrlTexts(text: string): UrlText[] {
  const found: UrlText[] = [];
  const open = [JsonNode.parse(text)];
  for (let node = open.pop(); node; node = open.pop()) {
    const { text: value } = node;
    if (value && mayBeUrl(value.value)) found.push({ url: value.value, start: value.start, end: value.end });
    open.push(...node.members.map(([, member]) => member), ...node.items);
  }
  return found.sort((a, b) => a.start - b.start);
}
