import { useQuery } from '@tanstack/react-query';
import clsx from 'clsx';
import { Link, useNavigate } from 'react-router';
import { queries } from '../api/queries.js';
import { Bar } from '../design/figures.js';
import { berthNow, berthPath, dropPath } from './berth-now.js';
import { dropFiles } from './dropped-files.js';

/** The edge of the counter, on every screen: each berth, who is on it, what happens, whether it needs somebody. */
export function BenchStrip() {
  const navigate = useNavigate();
  const bench = useQuery(queries.bench()).data;
  const operations = useQuery(queries.operations()).data ?? [];
  return (
    <section aria-label="Bench" className="border-b-8 border-edge bg-surface">
      {bench && !bench.connected && (
        <p role="status" className="bg-lamp px-5 py-1 font-semibold text-[#211f1c]">
          The bench does not answer. Check that the bench process runs; this screen reconnects by
          itself.
        </p>
      )}
      <ol className="flex">
        {(bench?.berths ?? []).map((berth) => {
          const away = bench?.away.find((a) => a.berth === berth.number);
          const deviceId = berth.device?.id ?? away?.deviceId;
          const operation = operations.find((o) => o.deviceId !== null && o.deviceId === deviceId);
          const now = berthNow(berth, { away: bench?.away ?? [] }, operation);
          return (
            <li
              key={berth.number}
              className="min-w-0 flex-1 border-r border-line last:border-r-0"
              // Left to the browser, a file would take the place of this page.
              onDragOver={(event) => event.preventDefault()}
              onDrop={(event) => {
                event.preventDefault();
                const files = [...event.dataTransfer.files].filter((f) => f.name.endsWith('.zip'));
                const to = dropPath(berth, bench?.berths ?? []);
                if (to === null || files.length === 0) return;
                dropFiles(files);
                void navigate(to);
              }}
            >
              <Link
                to={berthPath(berth)}
                data-berth={berth.number}
                className={clsx(
                  'flex h-[6.25rem] flex-col px-3 pt-2 pb-1.5 -outline-offset-4 hover:bg-ground',
                  now.needs && 'bg-lamp text-[#211f1c] hover:bg-lamp',
                )}
              >
                <span className="flex items-baseline gap-2">
                  <span className="font-mono text-title font-bold">
                    <span className="sr-only">Berth </span>
                    {berth.number}
                  </span>
                  <span className="min-w-0 flex-1 truncate font-semibold">
                    {berth.device?.name ?? away?.name ?? ''}
                  </span>
                  {now.share !== null && (
                    <span className="text-title font-bold">{Math.floor(now.share * 100)} %</span>
                  )}
                </span>
                <span className={clsx('truncate text-small', !now.needs && 'text-soft')}>
                  {berth.ticketNumber ? (
                    <>
                      <span className="font-mono">{berth.ticketNumber}</span> {berth.customerName}
                    </>
                  ) : berth.device ? (
                    berth.device.empty ? (
                      <span className="font-mono">{berth.device.serial}</span>
                    ) : (
                      `${berth.device.familyName} ${berth.device.model}`
                    )
                  ) : (
                    ' '
                  )}
                </span>
                <span
                  className={clsx(
                    'mt-auto line-clamp-2 text-small leading-4',
                    now.needs ? 'font-semibold' : 'text-ink',
                  )}
                >
                  {now.sentence}
                </span>
                {now.share !== null && (
                  <Bar share={now.share} label={`Berth ${berth.number}, ${now.sentence}`} />
                )}
              </Link>
            </li>
          );
        })}
        {bench?.berths.length === 0 && (
          <li className="flex h-[6.25rem] items-center px-5 text-soft">
            No berths yet: the bench process tells them when it answers.
          </li>
        )}
      </ol>
    </section>
  );
}
