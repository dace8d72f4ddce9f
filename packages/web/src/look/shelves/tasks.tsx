import type { ColumnDef } from '@tanstack/react-table';
import { dateTime, day } from '../../design/dates.js';
import { TakeInHand } from '../basket.js';
import { column, Facts, ShelfTable, type Row } from './shelf-table.js';
import type { Shown } from './use-shelf.js';

type Task = Row<'tasks'>;

/** As clocks show it there. */
const dueOf = ({ due, zone }: Task): string => {
  if (due === '') return '';
  return due.includes('T') ? `${dateTime(due)}${zone ? ` ${zone}` : ''}` : day(`${due}T00:00:00`);
};
/** RFC 5545, section 3.8.1.9. */
const urgencyOf = ({ priority }: Task): string =>
  priority === 0 || priority === 5 ? '' : priority < 5 ? 'urgent' : 'can wait';
const stateOf = (task: Task): string =>
  [task.done ? 'done' : '', urgencyOf(task), task.isRepeated ? 'comes again' : '']
    .filter(Boolean)
    .join(', ');

const columns: ColumnDef<Task>[] = [
  column('title', 'To do', ({ title }) => title || 'Without words', { words: true }),
  column('due', 'By', dueOf),
  column('state', 'How it stands', stateOf),
];

/** What there is to do: what is due first, behind it what is done. */
export const Tasks = (shown: Shown) => (
  <ShelfTable
    shelf="tasks"
    label="Tasks"
    shown={shown}
    columns={columns}
    detail={(task) => (
      <Facts
        label="Task"
        title={task.title || 'Without words'}
        facts={[
          ['By', dueOf(task)],
          ['How it stands', stateOf(task)],
          ['Note', task.notes],
        ]}
        foot={
          <TakeInHand id={shown.id} pick={{ of: 'row', shelf: 'tasks', row: task.row }}>
            Take it in hand
          </TakeInHand>
        }
      />
    )}
  />
);
