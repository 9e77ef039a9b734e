/** Elements whose text is shown, or used, as it is written, so that minifying leaves it alone. */
export const verbatimElements: ReadonlySet<string> = new Set([
  ...['pre', 'textarea', 'listing', 'xmp', 'plaintext', 'script', 'style', 'iframe', 'noembed', 'noframes'],
  // Style sheets often show these as they are written.
  ...['code', 'kbd', 'samp', 'tt'],
]);
