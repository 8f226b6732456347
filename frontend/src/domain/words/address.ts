/** Addresses as people read them. */

/** Characters that would say something else where they stand in an address, or could not be seen. */
const TELLING = /[\s&=+#?/%\p{Cc}\p{Cf}\p{Z}]/u;

/** An address with its percent-encoded characters written out, but for those that would then say something else. */
export function readable(address: string): string {
  return address.replace(/(?:%[0-9A-Fa-f]{2})+/g, (run) => {
    let text: string;
    try {
      text = decodeURIComponent(run);
    } catch {
      return run;
    }
    return [...text].map((char) => (TELLING.test(char) ? encodeURIComponent(char) : char)).join('');
  });
}
