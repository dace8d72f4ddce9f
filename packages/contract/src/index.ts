export * from './on-record.js';
export * from './shapes/index.js';
export * from './routes/index.js';
export * from './events.js';
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
