// @ts-check

/**
 * Two rules of the house that the linter does not have itself: its own for imports knows no “all but”, and none for calls tells
 * a clock that is read from a moment that is given.
 * @typedef {{ options: { patterns: { regex: string, message: string }[] }[], report(said: { node: object, message: string }): void }} Context
 * @typedef {{ source?: { value?: unknown } | null }} Importing
 */

/** What no file there may import, also when it is only handed on or fetched later. */
const mayNotImport = (/** @type {Context} */ context) => {
  const patterns = (context.options[0]?.patterns ?? []).map(({ regex, message }) => ({
    matches: new RegExp(regex),
    message,
  }));
  const look = (/** @type {Importing} */ node) => {
    const what = node.source?.value;
    if (typeof what !== 'string') return;
    for (const { matches, message } of patterns) {
      if (matches.test(what)) context.report({ node, message: `“${what}”: ${message}` });
    }
  };
  return {
    ImportDeclaration: look,
    ImportExpression: look,
    ExportNamedDeclaration: look,
    ExportAllDeclaration: look,
  };
};

/** `new Date()` reads the clock of whatever machine it runs on. */
const noClock = (/** @type {Context} */ context) => ({
  NewExpression(/** @type {{ callee: { name?: string }, arguments: readonly object[] }} */ node) {
    if (node.callee.name !== 'Date' || node.arguments.length > 0) return;
    context.report({ node, message: 'Take the time as an argument.' });
  },
});

const optionsOfImports = [
  {
    type: 'object',
    properties: {
      patterns: {
        type: 'array',
        items: {
          type: 'object',
          properties: { regex: { type: 'string' }, message: { type: 'string' } },
          additionalProperties: false,
        },
      },
    },
    additionalProperties: false,
  },
];

export default {
  meta: { name: 'house' },
  rules: {
    'may-not-import': { meta: { schema: optionsOfImports }, create: mayNotImport },
    'no-clock': { create: noClock },
  },
};
