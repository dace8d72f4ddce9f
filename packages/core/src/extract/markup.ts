/** Letters of a customer in a page: none of them is markup there. */
export const escapeHtml = (text: string): string =>
  text
    // What XML and HTML cannot hold (XML 1.0, section 2.2), written as what is not known.
    // oxlint-disable-next-line no-control-regex
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Surrogate}/gu, '\ufffd')
    .replace(
      /[&<>"']/g,
      (sign) =>
        ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[sign] ?? sign,
    );

const STYLE =
  'body{font:16px/1.5 sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem}' +
  'article{display:grid;grid-template-columns:11rem 1fr;gap:0 1rem;border-top:1px solid #bbb;padding:.3rem 0;break-inside:avoid}' +
  'article>p:first-child{text-align:right;color:#555;font-size:.85em}p{margin:0;white-space:pre-wrap;overflow-wrap:anywhere}' +
  'h2,h3{font-size:1em;margin:1.5rem 0 .3rem}section{content-visibility:auto;contain-intrinsic-size:auto 60rem}section>h2{font-size:1.3em;margin-top:3rem}img,video{max-width:100%;max-height:20rem;display:block}nav{margin:1rem 0}' +
  '@media print{nav{display:none}body{margin:0;max-width:none}}';

/** A page that can be read without any network, by anybody; no part of it runs. */
export const htmlPage = (title: string, body: string): string =>
  `<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n<meta name="viewport" content="width=device-width">\n` +
  `<meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src 'self' file:; media-src 'self' file:; style-src 'unsafe-inline'">\n` +
  `<title>${escapeHtml(title)}</title>\n<style>${STYLE}</style>\n</head>\n<body>\n<h1>${escapeHtml(title)}</h1>\n${body}\n</body>\n</html>\n`;

const shown: Record<string, 'img' | 'video' | 'audio'> = {
  ...{ jpg: 'img', jpeg: 'img', png: 'img', webp: 'img', gif: 'img', avif: 'img' },
  ...{ webm: 'video', mp4: 'video', m4v: 'video', mov: 'video' },
  ...{ ogg: 'audio', opus: 'audio', mp3: 'audio', m4a: 'audio', wav: 'audio', flac: 'audio' },
};

/** Whether a file is a video, by what it is called. */
export const isVideoName = (name: string): boolean => shownAs(name) === 'video';
const shownAs = (name: string) => shown[/\.(\w+)$/.exec(name)?.[1]?.toLowerCase() ?? ''];

/** What came with something that was said, in its place. @param path from the page; null where it was not taken */
export function cameWith({ name, path }: { name: string; path: string | null }): string {
  if (path === null) return `<p>With it: ${escapeHtml(name)}, which was not taken.</p>`;
  const address = escapeHtml(path.split('/').map(encodeURIComponent).join('/'));
  const called = escapeHtml(name);
  switch (shownAs(name)) {
    case 'img':
      return `<a href="${address}"><img src="${address}" alt="${called}" loading="lazy"></a>`;
    case 'video':
      return `<video src="${address}" controls preload="none"></video><p><a href="${address}">${called}</a></p>`;
    case 'audio':
      return `<audio src="${address}" controls preload="none"></audio><p><a href="${address}">${called}</a></p>`;
    default:
      return `<p><a href="${address}">${called}</a></p>`;
  }
}
