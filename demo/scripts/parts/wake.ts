declare const DEBUG: boolean;

/** Tells styles and visitors that the page is ready. */
export function wake(): void {
  document.documentElement.dataset['ready'] = 'yes';
  if (DEBUG) console.debug('Fernlight is awake');
}
