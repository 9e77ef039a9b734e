declare module 'html-encoding-sniffer' {
  /** The encoding of an HTML page (HTML, section 13.2.3.2), by the name that the Encoding Standard gives it. */
  export default function sniffEncoding(
    bytes: Uint8Array,
    options?: { transportLayerEncodingLabel?: string | undefined; defaultEncoding?: string },
  ): string;
}
