/** Opens a URL; failures are ignored, because a machine may have no browser. */
export function openInBrowser(url: string): void {
  const show = async (): Promise<void> => {
    const { default: open } = await import('open');
    const child = await open(url);
    child.on('error', () => undefined).unref();
  };
  show().catch(() => undefined);
}
