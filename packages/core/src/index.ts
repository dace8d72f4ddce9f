export * from './agreement.js';
export * from './audit.js';
export * from './care/index.js';
export * from './application-package.js';
export * from './choice.js';
export * from './classes.js';
export * from './cutting.js';
export * from './committed.js';
export * from './days.js';
export * from './coverage.js';
export { fieldIds, fieldNames, type Field } from './crossing/fields.js';
export * from './crossing/report.js';
export * from './device.js';
export * from './erase.js';
export * from './estimate.js';
export * from './extract/choices.js';
export * from './extract/mapping.js';
export * from './failed-items.js';
export * from './find/index.js';
export * from './fit.js';
export * from './leave-out.js';
export * from './merge/rules.js';
export * from './format.js';
export * from './keep/index.js';
export * from './look-in.js';
export { callKinds } from './records/call.js';
export * from './name-pattern.js';
export * from './operations/index.js';
export * from './partner.js';
export * from './password.js';
export * from './permissions/index.js';
export * from './problem.js';
export * from './progress.js';
export * from './copy-speed.js';
export * from './proof-level.js';
export * from './rack/index.js';
export * from './readable-name.js';
export * from './settling.js';
export * from './sheet.js';
export * from './readiness.js';
export * from './restorable.js';
export * from './run-sheet.js';
export * from './sampling.js';
export * from './schedule.js';
export * from './units.js';
export * from './zstd-frame.js';
export * from './update-policy.js';
export * from './adapter-site.js';
export * from './bench-rules.js';
export * from './shop.js';
export * from './values.js';
export * from './visit.js';
export * from './network.js';
export * from './condition.js';
export * from './sign-in.js';
export * from './letters.js';
export * from './takes.js';
export { changes, type Change } from './look/compare.js';
export {
  photographNameParts,
  photographPatternProblem,
  takeOutChoicesSchema,
  usualTakeOut,
  type TakeOutChoices,
} from './take-out/choices.js';
