import { TextField } from '../design/field.js';

export interface Person {
  login: string;
  password: string;
  phrase: string;
}
export type Two = [Person, Person];

const nobody: Person = { login: '', password: '', phrase: '' };
export const nobodyYet: Two = [nobody, nobody];

export const isComplete = (people: Two): boolean =>
  people.every((p) => p.login !== '' && p.password !== '' && p.phrase !== '') &&
  people[0].login.trim().toLowerCase() !== people[1].login.trim().toLowerCase();

/** Two people, each with their own sign-in and a phrase that the other does not know. */
export function EscrowPeople({
  people,
  onChange,
}: {
  people: Two;
  onChange: (people: Two) => void;
}) {
  const set = (at: 0 | 1, change: Partial<Person>) => {
    const next: Two = [...people];
    next[at] = { ...people[at], ...change };
    onChange(next);
  };
  return (
    <div className="grid grid-cols-2 gap-4">
      {([0, 1] as const).map((at) => (
        <fieldset key={at} className="flex flex-col gap-1">
          <legend className="pb-1 font-semibold">
            {at === 0 ? 'First person' : 'Second person'}
          </legend>
          <TextField
            label="Name to sign in with"
            autoComplete="off"
            value={people[at].login}
            onChange={(event) => set(at, { login: event.target.value })}
          />
          <TextField
            label="Their sign-in password"
            type="password"
            autoComplete="off"
            value={people[at].password}
            onChange={(event) => set(at, { password: event.target.value })}
          />
          <TextField
            label="Their own phrase"
            type="password"
            autoComplete="off"
            value={people[at].phrase}
            onChange={(event) => set(at, { phrase: event.target.value })}
          />
        </fieldset>
      ))}
    </div>
  );
}
