/** A guess at the language of a text that is not JavaScript, with a suggestion. */
export interface LanguageGuess {
  readonly kind: string;
  readonly advice: string;
}

/**
 * Guesses the language of a text that cannot be parsed as a script; undefined if it looks like a script with an error.
 */
export function guessLanguage(text: string): LanguageGuess | undefined {
  const start = text.trimStart().slice(0, 200);
  if (/[\0-\x08\x0e-\x1a\x1c-\x1f]/.test(text.slice(0, 8000)))
    return { kind: 'a binary file', advice: 'Copy it in a pipeline without steps, or keep it out of `from`.' };
  if (/^<(!doctype|html|head|body|svg|\?xml|!--)\b/i.test(start))
    return {
      kind: 'HTML or XML',
      advice: 'Was an error page saved in its place? Otherwise copy it in a pipeline without steps.',
    };
  if (
    /(^|[\n;}])\s*@[\w.]+(\([^)]*\))?\s*(export\s+)?(default\s+)?(class\b|@)|^\s*(static\s+)?accessor\s+[\w#]+\s*[=;]/m.test(
      text,
    )
  )
    return {
      kind: 'a script with decorators',
      advice: 'No browser supports them yet. Put `compile` before this step.',
    };
  if (/^\s*import\s+(defer\s*\*|source\s+[\w$]+\s+from)/m.test(text))
    return {
      kind: 'a module with `import defer` or `import source`',
      advice: 'No browser supports them yet. Import the module without that keyword.',
    };
  if (isJson(text)) return { kind: 'JSON', advice: 'Name it `.json`, and copy it in a pipeline without steps.' };
  if (
    /^\s*(interface\s+\w+[^;{]*\{|type\s+\w+(<[^>]*>)?\s*=|(export\s+)?(declare|abstract|namespace|enum)\s+\w+|import\s+type\b)/m.test(
      text,
    )
  )
    return typed;
  if (
    /\b(let|const|var)\s+\w+\s*:\s*[\w<>[\]|]+\s*=|\)\s*:\s*[\w<>[\]| ]+\s*(\{|=>)|\bas\s+(const|string|number|unknown|any)\b/.test(
      text,
    )
  )
    return typed;
  return undefined;
}

const typed: LanguageGuess = {
  kind: 'TypeScript',
  advice: 'Name it `.ts`, and put `compile` before this step.',
};

function isJson(text: string): boolean {
  if (!/^\s*[[{]/.test(text)) return false;
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}
