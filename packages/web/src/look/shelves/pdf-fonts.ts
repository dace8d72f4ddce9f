/** Letters of the fonts that every reader of PDFs has (ISO 32000-1, 9.6.2.2): documents name them, and do not carry them along. */
const files = import.meta.glob<string>(
  '../../../../../node_modules/pdfjs-dist/standard_fonts/*.{pfb,ttf}',
  { query: '?url', import: 'default', eager: true },
);
const byName = new Map(
  Object.entries(files).map(([path, address]) => [path.slice(path.lastIndexOf('/') + 1), address]),
);

/** Gives them to what draws pages: they ship with the application, or are inside a page of one file. */
export class PdfFonts {
  async fetch({ filename }: { filename: string }): Promise<Uint8Array> {
    const address = byName.get(filename);
    if (address === undefined) throw new Error('there is no such font');
    const [, inside] = /^data:[^,]*;base64,(.*)$/s.exec(address) ?? [];
    if (inside !== undefined)
      return Uint8Array.from(atob(inside), (letter) => letter.charCodeAt(0));
    return new Uint8Array(await (await fetch(address)).arrayBuffer());
  }
}
