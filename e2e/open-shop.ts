import mysql from 'mysql2/promise';
import { afterAll, afterEach } from 'vitest';
import { Api } from './api.js';
import { startTestProduct, type Product, type TestOptions } from './product.js';

export interface Shop {
  product: Product;
  api: Api;
  db: mysql.Connection;
}

/** The whole product for the tests of one file, somebody signed in to it, and its database; gone when they are over. */
export async function openShop(options: TestOptions = {}): Promise<Shop> {
  const product = await startTestProduct(options);
  const db = await mysql.createConnection(product.databaseSetupUrl);
  afterEach(({ task }) => {
    if (task.result?.state === 'fail') product.keepLogs(task.name);
  });
  afterAll(async () => {
    await db.end().catch(() => undefined);
    await product.stop();
  });
  return { product, api: await Api.signedIn(product), db };
}
