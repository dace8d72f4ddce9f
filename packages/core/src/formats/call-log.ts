import Papa from 'papaparse';
import { callKinds, type Call } from '../records/call.js';
import { moment, utf8, type RecordFormat } from './define.js';

const isKind = (text: string): text is Call['kind'] =>
  (callKinds as readonly string[]).includes(text);

/** Calls as comma-separated values (RFC 4180, UTF-8) under the header `at,kind,number,seconds`. */
export const callLog: RecordFormat<'calls'> = {
  mediaType: 'text/vnd.bright-cellar.call-log+csv',
  kind: 'calls',
  parse(contents) {
    const { data } = Papa.parse<string[]>(utf8(contents), { skipEmptyLines: true });
    return {
      kind: 'calls',
      calls: data.slice(1).map(([at = '', kind = '', number = '', seconds = '']) => {
        if (!isKind(kind)) throw new Error('not a kind of call');
        return { at: moment(at), kind, number, seconds: Number(seconds) || 0 };
      }),
    };
  },
  write({ calls }) {
    const fields = ['at', 'kind', 'number', 'seconds'];
    const data = calls.map(({ at, kind, number, seconds }) => [
      ...[at.toISOString(), kind, number, String(seconds)],
    ]);
    return new TextEncoder().encode(`${Papa.unparse({ fields, data }, { newline: '\r\n' })}\r\n`);
  },
};
