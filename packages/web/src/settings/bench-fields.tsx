import {
  berthCountNames,
  deviceWaitNames,
  placesProblem,
  type BenchRules,
} from '@bright-cellar/core';
import { Choice } from '../design/choice.js';
import { Lines } from '../design/field.js';

/** The bench: how large it is, where storage appears, and how long work waits for a device that left. */
export function BenchFields({
  rules,
  onChange,
}: {
  rules: BenchRules;
  onChange: (rules: BenchRules) => void;
}) {
  return (
    <>
      <Choice
        label="Berths for mounted storage"
        hint="An adapter with cables has as many as it has cables."
        value={rules.berths}
        options={berthCountNames}
        onChange={(berths) => onChange({ ...rules, berths })}
      />
      <Lines
        label="Where drives and storage appear"
        hint="Folders of this computer, one on each line. Below them media are found when they are mounted; where a line ends with /*, every folder in it is a medium."
        error={placesProblem(rules.places) ?? undefined}
        value={rules.places.join('\n')}
        onChange={({ target }) => onChange({ ...rules, places: target.value.split('\n') })}
      />
      <Choice
        label="How long work waits for a device that left"
        hint="Its password stays in memory as long; then what was taken stays, and somebody lets it go on."
        value={rules.waitMinutes}
        options={deviceWaitNames}
        onChange={(waitMinutes) => onChange({ ...rules, waitMinutes })}
      />
    </>
  );
}
