export * from './ticket/index.js';
export * from './audit.js';
export * from './care/index.js';
export * from './device/index.js';
export * from './backup/index.js';
export * from './archive/index.js';
export * from './values/index.js';
export { fieldIds, fieldNames, type Field } from './records/fields.js';
export * from './crossing/report.js';
export * from './estimate/index.js';
export * from './extract/choices.js';
export * from './extract/mapping.js';
export * from './find/index.js';
export * from './merge/rules.js';
export * from './keep/index.js';
export * from './look/look-in.js';
export { callKinds } from './records/call.js';
export * from './operations/index.js';
export * from './shop/index.js';
export * from './people/index.js';
export * from './permissions/index.js';
export * from './rack/index.js';
export { changes, type Change } from './look/compare.js';
export {
  photographNameParts,
  photographPatternProblem,
  takeOutChoicesSchema,
  usualTakeOut,
  type TakeOutChoices,
} from './take-out/choices.js';
