declare module 'html-encoding-sniffer' {
  /** The encoding of an HTML page (HTML, section 13.2.3.2), by its name in the Encoding Standard. */
  export default function sniffEncoding(
    bytes: Uint8Array,
    options?: { transportLayerEncodingLabel?: string | undefined; defaultEncoding?: string },
  ): string;
}
