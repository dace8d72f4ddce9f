import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'mysql',
  schema: './packages/server/src/database/schema.ts',
  out: './packages/server/migrations',
});
