const digits = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** An integer as a base64 variable-length quantity: groups of five bits, the lowest first (ECMA-426, "VLQ-signed values"). */
export function vlq(value: number): string {
  let rest = value < 0 ? (-value << 1) | 1 : value << 1;
  let text = '';
  do {
    const group = rest & 31;
    rest >>>= 5;
    text += digits[rest > 0 ? group | 32 : group]!;
  } while (rest > 0);
  return text;
}
