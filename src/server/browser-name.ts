const names: readonly (readonly [RegExp, string])[] = [
  [/\bEdg(e|A|iOS)?\//, 'Edge'],
  [/\bOPR\//, 'Opera'],
  [/\bFirefox\/|\bFxiOS\//, 'Firefox'],
  [/\bChromium\//, 'Chromium'],
  [/\b(Headless)?Chrome\/|\bCriOS\//, 'Chrome'],
  [/\bSafari\//, 'Safari'],
];

/** The common name of the browser that sends this `User-Agent` header. */
export function browserName(userAgent: string): string {
  return names.find(([pattern]) => pattern.test(userAgent))?.[1] ?? 'a browser';
}
