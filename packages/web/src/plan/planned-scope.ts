import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Plan, PlanCost } from '@bright-cellar/contract';
import { routes } from '@bright-cellar/contract';
import type { Choice, PlanMode } from '@bright-cellar/core';
import { call } from '../api/call.js';
import { queries } from '../api/queries.js';

/** What a ticket's next backup will take. */
export interface Scope {
  mode: PlanMode;
  choice: Choice;
  encrypted: boolean;
}

const usual: Scope = { mode: 'everything', choice: {}, encrypted: true };

export const scopeOf = ({ mode, choice, encrypted }: Plan): Scope => ({ mode, choice, encrypted });

/**
 * The scope of a ticket's next backup, kept while the program is open so that the ticket and its plan are
 * about the same. Until somebody decides, it is what was taken of this device last, or everything.
 */
export function usePlannedScope(number: string): {
  scope: Scope;
  set: (change: Partial<Scope>) => void;
  /** Where it comes from, when nobody has decided yet. */
  because: string | null;
} {
  const client = useQueryClient();
  const queryKey = ['planned', number];
  const decided = useQuery<Scope | null>({
    queryKey,
    // What somebody decided stays when everything is fetched anew, after a lost connection for one.
    queryFn: () => client.getQueryData<Scope | null>(queryKey) ?? null,
    staleTime: Infinity,
    gcTime: Infinity,
  }).data;
  const [remembered] = (useQuery(queries.plans(number)).data ?? []).filter((p) => p.name === '');
  const scope = decided ?? (remembered ? scopeOf(remembered) : usual);
  return {
    scope,
    set: (change) => client.setQueryData(queryKey, { ...scope, ...change }),
    because: decided ? null : (remembered?.because ?? null),
  };
}

/** What a scope would cost. Asked anew when the scope changes or the device does; reads a sample of the device. */
export function usePlanCost(number: string, scope: Scope, revision: string | null) {
  return useQuery<PlanCost>({
    queryKey: ['cost', number, revision, scope],
    queryFn: () => call(routes.planCost, { params: { number }, body: scope }),
    enabled: revision !== null,
    staleTime: 60_000,
    gcTime: 60_000,
    retry: false,
  });
}
