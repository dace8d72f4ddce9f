export { default } from 'pdfjs-dist/build/pdf.worker.min.mjs?worker';
