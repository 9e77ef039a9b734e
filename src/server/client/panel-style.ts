/** The style of the panel, which covers the lower part of the page. */
export const panelStyle = `
  :host {
    all: initial !important;
    position: fixed !important;
    inset: auto 0 0 0 !important;
    z-index: 2147483647 !important;
    display: block !important;
    width: auto !important;
    color-scheme: light dark !important;
  }
  section {
    --ink: #26221f; --paper: #faf7f2; --code: #f1ebe1; --faint: #6d645b; --line: #ddd5ca;
    --error: #b4231c; --warning: #8a5a00; --mark: #ffd9b8;
    box-sizing: border-box; display: flex; flex-direction: column; max-height: 60vh; margin: 0 auto; max-width: 64rem;
    background: var(--paper); color: var(--ink); border: 1px solid var(--line); border-bottom: 0;
    border-top: 0.375rem solid var(--error); border-radius: 0.25rem 0.25rem 0 0;
    box-shadow: 0 -0.5rem 2.5rem rgb(0 0 0 / 0.25); font: 1rem/1.5 ui-serif, Georgia, serif; text-align: start;
  }
  @media (prefers-color-scheme: dark) {
    section {
      --ink: #ece6dd; --paper: #1d1a18; --code: #2a2623; --faint: #a2978b; --line: #46403a;
      --error: #ff8a75; --warning: #f0b429; --mark: #6b3a1c;
    }
  }
  header { display: flex; align-items: center; gap: 1rem; padding: 0.75rem 1.25rem; border-bottom: 1px solid var(--line); }
  h1 { flex: 1; margin: 0; font-size: 1.125rem; line-height: 1.3; }
  button {
    font: inherit; font-size: 0.9375rem; color: inherit; background: none; border: 1px solid var(--faint);
    border-radius: 0.25rem; padding: 0.125rem 0.75rem; cursor: pointer;
  }
  :focus-visible { outline: 3px solid var(--error); outline-offset: 2px; }
  ol { flex: 1; overflow: auto; margin: 0; padding: 0 1.25rem; list-style: none; }
  ol:focus-visible, pre:focus-visible { outline-offset: -3px; }
  li { padding: 0.875rem 0; }
  li + li { border-top: 1px solid var(--line); }
  p { margin: 0; overflow-wrap: anywhere; }
  .place { font: 0.875rem/1.5 ui-monospace, monospace; }
  .error, .warning, .note { font-weight: bold; color: var(--error); }
  .warning { color: var(--warning); }
  .note { color: var(--faint); }
  small { color: var(--faint); font-size: 0.8125rem; }
  .message { margin: 0.25rem 0; white-space: pre-line; }
  pre {
    margin: 0.5rem 0; padding: 0.5rem 0; overflow-x: auto; background: var(--code); border-radius: 0.25rem;
    font: 0.875rem/1.5 ui-monospace, monospace; tab-size: 2;
  }
  code { font: inherit; display: block; width: max-content; min-width: 100%; }
  .line { display: block; padding-right: 1rem; }
  .here { background: color-mix(in srgb, var(--error) 10%, transparent); }
  .number {
    display: inline-block; box-sizing: border-box; width: 3.5rem; padding-right: 1rem; text-align: right;
    color: var(--faint); user-select: none;
  }
  mark { background: var(--mark); color: inherit; border-bottom: 2px solid var(--error); }
  .hint { color: var(--faint); font-size: 0.9375rem; }
  footer { padding: 0.5rem 1.25rem; border-top: 1px solid var(--line); color: var(--faint); font-size: 0.875rem; }
`;
