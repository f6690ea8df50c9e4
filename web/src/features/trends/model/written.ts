/** Which addresses a page has written itself, so that it can tell a link that was followed from its own echo. */

/** What was written and has not been seen yet, the oldest first; the first of them is the one seen last. */
export type Written = readonly string[];

/** What is left when an address is seen; null when it is none of those written: a link led there. Several may be
 * under way, because a router under load tells of one when the next is written already. */
export function seenOf(written: Written, address: string): Written | null {
  const at = written.indexOf(address);
  return at < 0 ? null : written.slice(at);
}

/** The same with another one written; the newest again adds nothing, because nobody would tell of it. */
export function wrote(written: Written, address: string): Written {
  return written.at(-1) === address ? written : [...written, address];
}
