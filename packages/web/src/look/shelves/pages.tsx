import { getDocument, PDFWorker, VerbosityLevel, type PDFDocumentProxy } from 'pdfjs-dist';
import { use, useEffect, useRef, useState } from 'react';
import { Button } from '../../design/button.js';
import { BytesFrom } from '../bytes.js';
import { PdfFonts } from './pdf-fonts.js';
import Worker from './pdf-worker.js';

/** A page is drawn at most so wide and high: what says that it is larger would take all memory. */
const WIDTH = 900;
const HEIGHT = 1300;

type Read = { pages: PDFDocumentProxy } | { trouble: string } | null;

/**
 * Reads a PDF (ISO 32000) in a worker of its own, which ends with what shows it. It is only drawn: no script of it runs, no form is
 * filled in, no font of it reaches the browser, and nothing is fetched for it.
 */
function usePages(id: string, item: number): Read {
  const { media } = use(BytesFrom);
  const [read, setRead] = useState<Read>(null);
  useEffect(() => {
    const port = new Worker();
    const worker = PDFWorker.fromPort({ port }) as PDFWorker;
    const from = media(id, item);
    let isOver = false;
    const begun = (async () => {
      const source =
        typeof from === 'string'
          ? { url: from, disableStream: true, disableAutoFetch: true }
          : { data: await (await from(() => undefined)).arrayBuffer() };
      return getDocument({
        ...{ ...source, worker, verbosity: VerbosityLevel.ERRORS },
        ...{ StandardFontDataFactory: PdfFonts, useWorkerFetch: false },
        ...{ isEvalSupported: false, enableXfa: false, disableFontFace: true },
      });
    })();
    begun
      .then((task) => task.promise)
      .then(
        (pages) => !isOver && setRead({ pages }),
        (error: unknown) => !isOver && setRead({ trouble: troubleOf(error) }),
      );
    return () => {
      isOver = true;
      setRead(null);
      void begun
        .then((task) => task.destroy())
        .catch(() => undefined)
        .finally(() => port.terminate());
    };
  }, [media, id, item]);
  return read;
}

const troubleOf = (error: unknown): string =>
  error instanceof Error && error.name === 'PasswordException'
    ? 'It has a password of its own. Taken out, it opens in a program that asks for it.'
    : 'It cannot be drawn: it is damaged, or is no PDF.';

/** A document of pages, one at a time. */
export default function Pages({ id, item, path }: { id: string; item: number; path: string }) {
  const read = usePages(id, item);
  const [number, setNumber] = useState(1);
  if (!read) return <p className="text-small text-soft">Reading it</p>;
  if ('trouble' in read) return <p className="text-small text-soft">{read.trouble}</p>;
  const { numPages } = read.pages;
  return (
    <figure className="flex flex-col gap-2">
      <figcaption className="flex flex-wrap items-center gap-3">
        {numPages > 1 && (
          <Button disabled={number === 1} onClick={() => setNumber(number - 1)}>
            Page before
          </Button>
        )}
        <span aria-live="polite">
          Page {number} of {numPages}
        </span>
        {numPages > 1 && (
          <Button disabled={number === numPages} onClick={() => setNumber(number + 1)}>
            Next page
          </Button>
        )}
      </figcaption>
      <Page pages={read.pages} number={number} label={`Page ${number} of ${path}`} />
    </figure>
  );
}

function Page({
  pages,
  number,
  label,
}: {
  pages: PDFDocumentProxy;
  number: number;
  label: string;
}) {
  const drawnOn = useRef<HTMLCanvasElement>(null);
  const [words, setWords] = useState('');
  useEffect(() => {
    const canvas = drawnOn.current;
    if (!canvas) return;
    const over = new AbortController();
    const draw = async () => {
      const page = await pages.getPage(number);
      const whole = page.getViewport({ scale: 1 });
      const scale = Math.min(WIDTH / whole.width, HEIGHT / whole.height);
      const viewport = page.getViewport({ scale });
      if (over.signal.aborted) return;
      canvas.width = Math.ceil(viewport.width);
      canvas.height = Math.ceil(viewport.height);
      const canvasContext = canvas.getContext('2d');
      if (!canvasContext) throw new Error('nothing to draw on');
      const drawing = page.render({ canvasContext, viewport });
      over.signal.addEventListener('abort', () => drawing.cancel());
      await drawing.promise;
      const { items } = await page.getTextContent();
      over.signal.throwIfAborted();
      setWords(items.map((one) => ('str' in one ? one.str : '')).join(' '));
    };
    draw().catch(() => {
      if (!over.signal.aborted) setWords('This page cannot be drawn.');
    });
    return () => over.abort();
  }, [pages, number]);
  return (
    <>
      <canvas
        ref={drawnOn}
        role="img"
        aria-label={label}
        className="w-full border border-line bg-white"
      />
      <p className="sr-only">{words}</p>
    </>
  );
}
