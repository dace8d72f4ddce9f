export * from './application-packages.js';
export * from './crossing-examples.js';
export * from './desk.js';
export * from './on-record.js';
export * from './papers.js';
export * from './shapes.js';
export * from './routes.js';
export * from './events.js';
export * from './look-compare.js';
export * from './look-ins.js';
export * from './look-shelves.js';
export * from './look-samples.js';
export * from './look-take-out.js';
export * from './message-files.js';
export * from './organiser.js';
export { openApiDocument } from './openapi.js';
export type {
  Access,
  BodyInputOf,
  BodyOf,
  ParamsInputOf,
  ParamsOf,
  QueryInputOf,
  QueryOf,
  ResponseOf,
  Route,
} from './route.js';
