/**
 * A name of a customer's file for people, and for formats that know only UTF-8. A byte that is not UTF-8 stands in a name as the
 * lone surrogate U+DC00 + byte; here it is `\xNN`.
 */
export function readableName(text: string): string {
  return text.replaceAll(
    /\p{Surrogate}/gu,
    (c) => `\\x${(c.charCodeAt(0) & 0xff).toString(16).padStart(2, '0')}`,
  );
}
