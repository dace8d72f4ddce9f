import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type ArchiveSort, type SavedView } from '@bright-cellar/contract';
import { X } from 'lucide-react';
import { useState } from 'react';
import { call, problemFrom } from '../api/call.js';
import { queries, type ListAsk } from '../api/queries.js';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { ProblemNote } from '../design/note.js';

/** Searches that somebody kept, each to be had again with one press; and the present one to be kept. */
export function SavedViews({
  ask,
  isUsual,
  onShow,
}: {
  ask: ListAsk<ArchiveSort>;
  isUsual: boolean;
  onShow: (ask: ListAsk<ArchiveSort>) => void;
}) {
  const client = useQueryClient();
  const views = useQuery(queries.savedViews()).data ?? [];
  const [name, setName] = useState<string | null>(null);
  const onSuccess = (now: SavedView[]) => {
    setName(null);
    client.setQueryData(queries.savedViews().queryKey, now);
  };
  const { text, ...sorted } = ask;
  const save = useMutation({
    mutationFn: (called: string) =>
      call(routes.saveView, { body: { name: called, find: text.slice(0, 200), ...sorted } }),
    onSuccess,
  });
  const drop = useMutation({
    mutationFn: (id: string) => call(routes.dropView, { params: { id } }),
    onSuccess,
  });
  const isKept = views.some(
    (view) => view.find === text && view.sort === ask.sort && view.order === ask.order,
  );
  const error = save.error ?? drop.error;
  if (views.length === 0 && isUsual) return null;
  return (
    <div className="flex flex-wrap items-end gap-2" role="group" aria-label="Kept views">
      {views.map((view) => (
        <span key={view.id} className="inline-flex h-9 items-center border border-line bg-surface">
          <button
            type="button"
            className="h-full px-3 font-semibold hover:bg-ground"
            onClick={() => onShow({ text: view.find, sort: view.sort, order: view.order })}
          >
            {view.name}
          </button>
          <button
            type="button"
            aria-label={`Forget the view ${view.name}`}
            className="h-full border-l border-line px-2 hover:bg-ground"
            onClick={() => drop.mutate(view.id)}
          >
            <X className="size-4" aria-hidden />
          </button>
        </span>
      ))}
      {!isUsual && !isKept && name === null && (
        <Button onClick={() => setName(text.slice(0, 60))}>Keep this view</Button>
      )}
      {name !== null && (
        <form
          className="flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate(name);
          }}
        >
          <TextField
            label="Call it"
            autoFocus
            maxLength={60}
            value={name}
            onChange={({ target: { value } }) => setName(value)}
          />
          <Button type="submit" disabled={name.trim() === ''} busy={save.isPending}>
            Keep it
          </Button>
        </form>
      )}
      {error && <ProblemNote problem={problemFrom(error)} />}
    </div>
  );
}
