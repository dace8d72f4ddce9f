import { Note } from '../design/note.js';
import type { EndedPanel } from './ended.js';

export const EndedErase: EndedPanel<'erase'> = () => (
  <Note tone="proven">The device erased itself and is empty.</Note>
);
