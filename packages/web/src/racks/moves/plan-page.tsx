import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import {
  archiveIdSchema,
  formatBytes,
  formatCount,
  formatDurationRange,
  rackIdSchema,
} from '@bright-cellar/core';
import type { MovePlan, NoPlan, Wish } from '@bright-cellar/core/placement';
import { useNavigate, useSearchParams } from 'react-router';
import { useMemo } from 'react';
import { MayButton } from '../../account/may-button.js';
import { call, problemFrom } from '../../api/call.js';
import { placeOperation, queries } from '../../api/queries.js';
import { Button } from '../../design/button.js';
import { Figure } from '../../design/figures.js';
import { Loading } from '../../design/loading.js';
import { ProblemNote } from '../../design/note.js';
import { Page, Section } from '../../design/page.js';
import { Board } from './board.js';
import { drawPlan } from './drawn-plan.js';
import { MovesTable } from './moves-table.js';
import {
  addressOf,
  namedRack,
  pinsOf,
  planFrom,
  wishOf,
  withMove,
  type ByHand,
  type Wished,
} from './plan-address.js';
import { usePlan } from './use-plan.js';
import { WishForm } from './wish-form.js';

/** What to move where: a wish, what it would come to, and the press that begins it. Nothing moves before. */
export function PlanPage() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [address, setAddress] = useSearchParams();
  const { wished, byHand } = planFrom(address);
  const racks = useQuery(queries.racks());
  const stock = useQuery(queries.stock(namedRack(wished)));
  const pins = stock.data ? pinsOf(stock.data, byHand) : [];
  const wish = wishOf(wished);
  const found = usePlan(stock.data, wish, pins);
  const plan = found && !('why' in found) ? found : null;
  const drawn = useMemo(
    () => (racks.data && stock.data ? drawPlan(racks.data, stock.data, plan) : []),
    [racks.data, stock.data, plan],
  );
  const start = useMutation({
    mutationFn: (moves: MovePlan['moves']) =>
      call(routes.startMove, {
        params: {},
        body: {
          moves: moves.map(({ copyId, archiveId, from, to, bytes, detour }) => ({
            ...{ copyId, archiveId, from, to, bytes, detour },
          })),
        },
      }),
    onSuccess: async (operation) => {
      placeOperation(client, operation);
      await client.invalidateQueries({ queryKey: queries.racks().queryKey });
      await navigate(`/racks/moves/${operation.id}`);
    },
  });
  const error = racks.error ?? stock.error;
  if (error) return <ProblemNote problem={problemFrom(error)} />;
  if (!racks.data || !stock.data) return <Loading what="Going along the racks" />;
  const show = (next: Wished, moves: readonly ByHand[]) =>
    setAddress(addressOf(next, moves), { replace: true, preventScrollReset: true });
  const move = (by: ByHand) => show(wished, withMove(byHand, by));
  const isReady = plan !== null && plan.moves.length > 0;
  return (
    <Page
      title="Move plan"
      now={sentence(wish, found, byHand.length)}
      calm={!isReady}
      aside={
        <span className="flex gap-2">
          {byHand.length > 0 && (
            <Button onClick={() => show(wished, byHand.slice(0, -1))}>
              Take the last change back
            </Button>
          )}
          <MayButton
            permission="move"
            look="main"
            disabled={!isReady}
            busy={start.isPending}
            onClick={() => plan && start.mutate(plan.moves)}
          >
            Carry it out
          </MayButton>
        </span>
      }
    >
      {start.error && <ProblemNote problem={problemFrom(start.error)} />}
      <div className="grid grid-cols-1 items-start gap-x-8 gap-y-5 lg:grid-cols-[16rem_minmax(0,1fr)]">
        <WishForm
          racks={racks.data}
          stock={stock.data}
          wished={wished}
          onChange={(next) => show(next, byHand)}
        />
        <div className="flex min-w-0 flex-col gap-5">
          <Board
            racks={drawn}
            onMove={(archiveId, from, to) =>
              move([
                archiveIdSchema.parse(archiveId),
                rackIdSchema.parse(from),
                rackIdSchema.parse(to),
              ])
            }
          />
          {found && 'why' in found && <Impossible found={found} />}
          {plan && <Costs plan={plan} />}
        </div>
      </div>
      {plan && plan.moves.length > 0 && (
        <Section title="Moves, in their order">
          <MovesTable plan={plan} stock={stock.data} racks={racks.data} onMove={move} />
          <p className="text-small text-soft">
            Each archive is copied, read back from its new rack, put on record there, and only then
            removed where it was.
          </p>
        </Section>
      )}
    </Page>
  );
}

function sentence(wish: Wish | null, found: MovePlan | NoPlan | null, changes: number): string {
  if (!wish) return 'Say what is wanted. Nothing moves before you start it.';
  if (!found) return 'Looking for the fewest moves.';
  if ('why' in found) return 'Nothing does that now: below is what would.';
  if (found.moves.length > 0) return 'Look at the moves, change what you like, then carry it out.';
  if (changes > 0) {
    return 'Nothing is left to move: take the last change back, or move something else.';
  }
  return wish.kind === 'by-hand'
    ? 'Say what is wanted, or drag an archive onto another rack. Nothing moves before you start it.'
    : 'It is so already: nothing has to move.';
}

function Impossible({ found: { why, would } }: { found: NoPlan }) {
  return (
    <section role="alert" className="flex flex-col gap-2 border border-line bg-surface p-4">
      <p className="font-semibold">{why}</p>
      {would.length > 0 ? (
        <>
          <p>Any one of these would make it possible:</p>
          <ul className="list-disc pl-6">
            {would.map((way) => (
              <li key={way}>{way}</li>
            ))}
          </ul>
        </>
      ) : (
        <p>Ask for less, or move something else by hand first.</p>
      )}
    </section>
  );
}

function Costs({ plan }: { plan: MovePlan }) {
  const { moves, bytes, atLeast, lowMs, highMs, leftOut } = plan;
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-2">
      <Figure value={formatCount(moves.length)}>Moves</Figure>
      <Figure
        value={formatBytes(bytes)}
        {...(bytes > 0
          ? {
              of:
                bytes === atLeast
                  ? 'and no plan moves less'
                  : `at least ${formatBytes(atLeast)} must`,
            }
          : {})}
      >
        To move
      </Figure>
      <Figure
        value={moves.length > 0 ? formatDurationRange(lowMs, highMs) : '–'}
        of="read back included"
      >
        It takes
      </Figure>
      <Figure value="at no moment" of="for any archive">
        Fewer copies than now
      </Figure>
      {leftOut > 0 && (
        <Figure value={formatCount(leftOut)} of="damaged, or on racks that are away">
          Archives that cannot go now
        </Figure>
      )}
    </div>
  );
}
