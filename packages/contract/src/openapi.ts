import { z } from 'zod';
import { routes } from './routes/index.js';
import { problemSchema } from './shapes/index.js';

const schemaOf = (schema: z.ZodType) =>
  z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' });

function parametersOf(schema: z.ZodType, place: 'path' | 'query') {
  const json = schemaOf(schema) as { properties?: Record<string, object> };
  return Object.entries(json.properties ?? {}).map(([name, property]) => ({
    name,
    in: place,
    required: true,
    schema: property,
  }));
}

const jsonContent = (schema: z.ZodType) => ({ 'application/json': { schema: schemaOf(schema) } });

/** The API as an OpenAPI 3.1 document, made from the same table that the server answers from. */
export function openApiDocument() {
  const paths: Record<string, Record<string, object>> = {};
  for (const [name, route] of Object.entries(routes)) {
    const path = route.path.replace(/:([A-Za-z]+)/g, '{$1}');
    const takesBody = route.method === 'POST' || route.method === 'PUT';
    paths[path] = {
      ...paths[path],
      [route.method.toLowerCase()]: {
        operationId: name,
        summary: route.summary,
        parameters: [...parametersOf(route.params, 'path'), ...parametersOf(route.query, 'query')],
        ...(takesBody ? { requestBody: { required: true, content: jsonContent(route.body) } } : {}),
        responses: {
          200: { description: 'As asked.', content: jsonContent(route.response) },
          default: { description: 'A problem.', content: jsonContent(problemSchema) },
        },
        security: route.access === 'anyone' ? [] : [{ session: [], csrf: [] }],
      },
    };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Bright Cellar', version: '0.1.0' },
    paths,
    components: {
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'cellar_session' },
        csrf: { type: 'apiKey', in: 'header', name: 'x-csrf-token' },
      },
    },
  };
}
