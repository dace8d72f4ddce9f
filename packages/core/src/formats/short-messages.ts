import type { Message } from '../records/message.js';
import { folderOf, linesOf, moment, type RecordFormat } from './define.js';
import { latinBytes } from './old-text.js';

/**
 * Texts of a keyboard handset: moment, sender and words, with tabs between, in ISO 8859-1. Behind the sender, after a `>`, stands
 * the conversation where the sender does not tell it: numbers, commas between.
 */
export const shortMessages: RecordFormat<'messages'> = {
  mediaType: 'text/vnd.bright-cellar.short-messages',
  kind: 'messages',
  parse(contents, path) {
    return {
      kind: 'messages',
      messages: linesOf(new TextDecoder('latin1').decode(contents)).map((line) => {
        const [at = '', who = '', ...words] = line.split('\t');
        const [from = '', thread] = who.split('>', 2);
        const own = thread ?? usualThread({ from }, path);
        return { thread: own, at: moment(at), from, text: words.join('\t'), attachment: null };
      }),
    };
  },
  write({ messages }, path) {
    const lines = messages.map(({ at, from, text, thread }) => {
      const who = thread === usualThread({ from }, path) ? from : `${from}>${thread}`;
      return `${at.toISOString()}\t${oneLine(who, /[\t\r\n]+/g)}\t${oneLine(text, /[\r\n]+/g)}\n`;
    });
    return latinBytes(lines.join(''));
  },
};

const oneLine = (text: string, breaks: RegExp): string => text.replaceAll(breaks, ' ');

/** What somebody writes is in the conversation with them; of what the owner wrote only the folder is known. */
const usualThread = ({ from }: Pick<Message, 'from'>, path: string): string =>
  from === 'me' || from === '' ? folderOf(path).name : from;
