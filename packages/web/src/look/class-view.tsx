import type { ShelfId } from '@bright-cellar/contract';
import { dataClasses, type DataClass } from '@bright-cellar/core';
import { useDeferredValue, useState } from 'react';
import { Button } from '../design/button.js';
import { TextField } from '../design/field.js';
import { Section } from '../design/page.js';
import { TakeInHand } from './basket.js';
import { LookFiles } from './look-files.js';
import { shelfViews, shelvesOf } from './shelves/index.js';

/** One class, as people read it; as the files that it is where nothing else can be read of it, or somebody wants those. */
export function ClassView({
  id,
  dataClass,
  shelf: wanted,
  text: sought,
  filled,
}: {
  id: string;
  dataClass: DataClass;
  /** Which of its lists; null for the first that has anything. */
  shelf: ShelfId | null;
  /** What is looked for to begin with. */
  text: string;
  /** Lists that have anything in them. */
  filled: ReadonlySet<ShelfId>;
}) {
  const all = shelvesOf(dataClass).filter((one) => filled.has(one));
  // Until somebody chose, as people read it: also where that is known only once all was read.
  const [chosen, setShelf] = useState<ShelfId | null | undefined>(wanted ?? undefined);
  const shelf = chosen === undefined ? (all[0] ?? null) : chosen;
  const [text, setText] = useState(sought);
  const asked = useDeferredValue(text.trim());
  if (shelf === null) {
    return (
      <LookFiles id={id} dataClass={dataClass}>
        <span className="flex gap-2">
          {all[0] !== undefined && (
            <Button onClick={() => setShelf(all[0] ?? null)}>As people read it</Button>
          )}
          <TakeInHand id={id} pick={{ of: 'files', class: dataClass, text: '' }}>
            Take all files in hand
          </TakeInHand>
        </span>
      </LookFiles>
    );
  }
  const { name, View } = shelfViews[shelf];
  return (
    <Section
      title={name}
      aside={
        <span className="flex gap-2">
          {all
            .filter((one) => one !== shelf)
            .map((one) => (
              <Button key={one} onClick={() => setShelf(one)}>
                {shelfViews[one].name}
              </Button>
            ))}
          <TakeInHand id={id} pick={{ of: 'found', shelf, text: asked }}>
            {asked === '' ? 'Take all of it in hand' : 'Take what was found in hand'}
          </TakeInHand>
          <Button onClick={() => setShelf(null)}>As files</Button>
        </span>
      }
    >
      <TextField
        label={`Find in ${dataClasses[dataClass].toLowerCase()}`}
        type="search"
        autoComplete="off"
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      <View key={asked} id={id} text={asked} />
    </Section>
  );
}
