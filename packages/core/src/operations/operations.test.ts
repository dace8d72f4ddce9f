import { describe, expect, test } from 'vitest';
import { permissionIds, permissions } from '../permissions/index.js';
import {
  activeStates,
  afterOperationEvent,
  archiveLock,
  definitionOf,
  deviceLock,
  excludes,
  isOver,
  isPausable,
  isStoppable,
  operationKinds,
  operationStates,
  phaseName,
  statesThatTake,
} from './index.js';

describe('the state of an operation', () => {
  test('stays as it is once it is over, whatever comes after', () => {
    for (const state of operationStates) {
      for (const event of ['finish', 'fail', 'stop', 'lose'] as const) {
        expect(afterOperationEvent(state, event) === null).toBe(isOver(state));
      }
    }
    expect(activeStates).toEqual(['ordered', 'running', 'paused', 'stopping']);
  });

  test('is stopped or let wait by people only where that means something', () => {
    expect(statesThatTake('ask-stop')).toEqual(activeStates);
    expect(statesThatTake('pause')).toEqual(['running', 'paused']);
    expect(afterOperationEvent('paused', 'go-on')).toBe('running');
    // A request that comes late must not undo the stop that somebody asked for.
    expect(afterOperationEvent('stopping', 'go-on')).toBeNull();
    expect(afterOperationEvent('stopping', 'take')).toBe('stopping');
  });

  test('can go on from any bad end, and from no good one', () => {
    expect(statesThatTake('continue')).toEqual(['failed', 'stopped', 'interrupted']);
  });
});

describe('locks', () => {
  const mine = archiveLock('a', 'shared');
  test('are shared by any number, and by nobody where one of them wants it alone', () => {
    expect(excludes(mine, archiveLock('a', 'shared'))).toBe(false);
    expect(excludes(mine, archiveLock('a', 'exclusive'))).toBe(true);
    expect(excludes(archiveLock('a', 'exclusive'), mine)).toBe(true);
    expect(excludes(mine, archiveLock('b', 'exclusive'))).toBe(false);
    const update = archiveLock('a', 'update');
    expect(excludes(mine, update) || excludes(update, mine)).toBe(false);
    expect(excludes(update, update)).toBe(true);
    expect(excludes(update, archiveLock('a', 'exclusive'))).toBe(true);
    expect(excludes(deviceLock('S1'), deviceLock('S1'))).toBe(true);
  });
});

describe.each(operationKinds)('the kind “%s”', (kind) => {
  const definition = definitionOf(kind);
  const { ifCut, ifStopped, start } = definition;
  test('says itself as whole as any other', () => {
    expect(definition.kind).toBe(kind);
    expect(permissionIds).toContain(definition.permission);
    expect(permissions[definition.permission]).toMatch(/^[A-Z]/);
    expect(Object.keys(definition.phases)).toContain(definition.firstPhase);
    for (const sentence of [ifCut.safe, ifCut.next, ifStopped.safe, start.summary])
      if (sentence !== undefined) expect(sentence).toMatch(/^[A-Z].*\.$/);
    for (const phase of definition.pausable)
      expect(phaseName(kind, phase)).toBe(definition.phases[phase]);
  });

  test('keeps no password and no path in its row', () => {
    const kept = Object.keys(definition.input.shape);
    expect(kept.filter((name) => /password$|path/i.test(name))).toEqual([]);
  });

  test('is not let wait where it is not stopped either', () => {
    for (const phase of Object.keys(definition.phases))
      if (isPausable(kind, phase)) expect(isStoppable(kind, phase)).toBe(true);
  });
});

test('a device that erases itself is not stopped in the middle', () => {
  expect(isStoppable('erase', 'checking')).toBe(false);
  expect(isStoppable('restore', 'installing')).toBe(false);
  expect(isStoppable('restore', 'sending')).toBe(true);
});
