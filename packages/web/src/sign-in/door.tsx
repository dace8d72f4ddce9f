import type { ReactNode } from 'react';

/** The shop from outside: the counter above, the cellar below. */
export function Door({ above, below }: { above: ReactNode; below: ReactNode }) {
  return (
    <div className="flex h-full flex-col bg-ground">
      <div className="flex flex-1 items-end justify-center pb-10">
        <div className="w-80">{above}</div>
      </div>
      <div className="on-cellar flex h-2/5 justify-center border-t-8 border-edge bg-cellar pt-8 text-cellar-soft">
        <div className="w-80">{below}</div>
      </div>
    </div>
  );
}
