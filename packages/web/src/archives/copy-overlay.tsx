import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes, type Archive, type Operation, type Rack } from '@bright-cellar/contract';
import { formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { call } from '../api/call.js';
import { placeOperation, queries } from '../api/queries.js';
import { Choice } from '../design/choice.js';
import { OverlayForm } from '../design/overlay-form.js';

interface Props {
  archive: Archive;
  onClose: () => void;
  onStarted: (operation: Operation) => void;
}

/** Copies an archive onto another rack, or brings the copy that lies there up to date. */
export function CopyOverlay({ archive, onClose, onStarted }: Props) {
  const client = useQueryClient();
  const racks = (useQuery(queries.racks()).data ?? []).filter((rack) => canTake(archive, rack));
  const [chosen, setChosen] = useState<string | null>(null);
  const rack = racks.find(({ id }) => id === chosen) ?? racks[0];
  const start = useMutation({
    mutationFn: () =>
      call(routes.startCopy, { params: { id: archive.id }, body: { rackId: rack?.id ?? '' } }),
    onSuccess: (operation) => {
      placeOperation(client, operation);
      onStarted(operation);
    },
  });
  return (
    <OverlayForm
      permission={routes.startCopy.access}
      title="Copy onto another rack"
      description={`${formatBytes(archive.storedBytes)} are sent as they are sealed, read back from the rack and compared. It needs no password, and counts as a copy only when all of it came back as it was sent.`}
      action="Copy it"
      ready={rack !== undefined}
      work={start}
      onClose={onClose}
    >
      {rack ? (
        <Choice
          label="Onto which rack"
          value={rack.id}
          options={Object.fromEntries(racks.map((r) => [r.id, wordsOf(archive, r)]))}
          onChange={setChosen}
        />
      ) : (
        <p>
          No other rack is here that has room for it and does not have it already. Connect one of
          the shop’s drives.
        </p>
      )}
    </OverlayForm>
  );
}

const there = (archive: Archive, rack: Rack) => archive.copies.find((c) => c.rackId === rack.id);

function canTake(archive: Archive, rack: Rack): boolean {
  const copy = there(archive, rack);
  const needed = Math.max(0, archive.storedBytes - (copy?.storedBytes ?? 0));
  return rack.present && !copy?.isNewest && rack.free - needed > rack.reserve;
}

function wordsOf(archive: Archive, rack: Rack): string {
  const free = `${rack.name}, ${formatBytes(rack.free)} free`;
  return there(archive, rack) ? `${free}: has an older state, gets what is new` : free;
}
