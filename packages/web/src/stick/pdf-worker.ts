/** In the place of that of the counter: a page of one file has it inside. */
export { default } from 'pdfjs-dist/build/pdf.worker.min.mjs?worker&inline';
