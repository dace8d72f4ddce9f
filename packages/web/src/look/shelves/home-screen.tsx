import { Loading } from '../../design/loading.js';
import { useShelf, type Shown } from './use-shelf.js';

/** Where the device shows its applications: each page as rows of names, and what stands on all of them. */
export function HomeScreens(shown: Shown) {
  const read = useShelf('screens', shown);
  if (!read) return <Loading what="Drawing the home screen" />;
  return (
    <>
      {read.rows.map(({ pages, dock }, n) => (
        <div key={n} className="flex flex-wrap gap-4">
          {[
            ...pages.map((names, at) => [`Page ${at + 1}`, names] as const),
            ['On every page', dock] as const,
          ].map(([title, names]) => (
            <section
              key={title}
              aria-label={title}
              className="w-64 border border-line bg-surface p-3"
            >
              <h3 className="text-small text-soft">{title}</h3>
              <ol className="grid grid-cols-2 gap-x-3">
                {names.map((name, place) => (
                  <li key={place} className="border-b border-line py-1 break-words">
                    {name}
                  </li>
                ))}
              </ol>
            </section>
          ))}
        </div>
      ))}
      {read.rows.length === 0 && <p className="text-soft">It does not say where it shows what.</p>}
    </>
  );
}
