import { judgeCondition } from '@bright-cellar/core';
import { readConfig } from '../config.js';
import { connect } from '../database/connect.js';
import { conditionFacts } from './facts.js';

/** `npm run doctor`: how an installation is, from outside. Ends with 1 where something is wrong. */
const config = readConfig(process.env);
const address = process.env.CELLAR_RUNS_AT ?? '';
const connection = connect(config.databaseUrl);
try {
  const facts = await conditionFacts(connection.db, config.data, new Date(), null);
  const findings = judgeCondition(facts)
    // What only the program itself knows, it is asked.
    .filter(({ about }) => address === '' || about !== 'Program');
  const answers =
    address === ''
      ? null
      : await fetch(`${address}/healthz`).then(
          (a) => a.ok,
          () => false,
        );
  if (answers === false) {
    findings.unshift({
      ...{ about: 'Program', state: 'wrong', what: `It runs, and does not answer at ${address}.` },
      next: 'Look into logs/server.log in the data folder.',
    });
  }
  const marks = { well: 'well ', look: 'look ', wrong: 'WRONG' };
  for (const { about, state, what, next } of findings) {
    process.stdout.write(
      `${marks[state]}  ${about}: ${what}${next === '' ? '' : `\n       ${next}`}\n`,
    );
  }
  process.exitCode = findings.some(({ state }) => state === 'wrong') ? 1 : 0;
} finally {
  await connection.close();
}
