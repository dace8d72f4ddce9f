// @ts-check
import { expect, test } from 'vitest';
import { serviceUnit } from './service-unit.mjs';

const unit = serviceUnit({
  node: '/usr/bin/node',
  root: '/opt/bright cellar',
  data: '/srv/100%/$HOME "x"',
  port: 4700,
  user: 'bright-cellar',
});

test('runs as a user of its own, without what it has no business with', () => {
  for (const line of [
    'User=bright-cellar',
    'NoNewPrivileges=yes',
    'CapabilityBoundingSet=',
    'UMask=0077',
    'SystemCallFilter=@system-service',
  ]) {
    expect(unit.split('\n')).toContain(line);
  }
  // What is compiled while it runs is written and then run: this would stop it.
  expect(unit).not.toContain('MemoryDenyWriteExecute');
});

test('paths of any letters are one word each, and nothing in them is expanded', () => {
  expect(unit).toContain(
    'ExecStart="/usr/bin/node" "/opt/bright cellar/scripts/start.mjs" "--built" "--data" "/srv/100%%/$$HOME \\"x\\"" "--port" "4700"\n',
  );
});
