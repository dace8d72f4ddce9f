import Papa from 'papaparse';
import { moment, utf8, type RecordFormat } from './define.js';

/** Measurements as comma-separated values (RFC 4180, UTF-8) under the header `at,what,value,unit`. */
export const health: RecordFormat<'measurements'> = {
  mediaType: 'text/vnd.bright-cellar.health+csv',
  kind: 'measurements',
  parse(contents) {
    const { data } = Papa.parse<string[]>(utf8(contents), { skipEmptyLines: true });
    return {
      kind: 'measurements',
      measurements: data.slice(1).map(([at = '', what = '', value = '', unit = '']) => {
        if (value.trim() === '' || !Number.isFinite(Number(value))) throw new Error('not a number');
        return { at: moment(at), what, value: Number(value), unit };
      }),
    };
  },
  write({ measurements }) {
    const fields = ['at', 'what', 'value', 'unit'];
    const data = measurements.map(({ at, what, value, unit }) => [
      ...[at.toISOString(), what, String(value), unit],
    ]);
    return new TextEncoder().encode(`${Papa.unparse({ fields, data }, { newline: '\r\n' })}\r\n`);
  },
};
