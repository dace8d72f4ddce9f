import { randomUUID } from 'node:crypto';
import type { Customer } from '@bright-cellar/contract';
import { and, eq, inArray } from 'drizzle-orm';
import { isFoundBy, searchText } from '../database/columns.js';
import type { Database, Transaction } from '../database/connect.js';
import { customers } from '../database/schema.js';

export const customerView = ({ id, name, phone, email }: Customer): Customer => ({
  id,
  name,
  phone,
  email,
});

/** What they are found by. */
const searchOf = ({ name, phone, email }: Pick<Customer, 'name' | 'phone' | 'email'>): Buffer =>
  searchText(name, phone, email);

/** @returns its id */
export async function addCustomer(
  tx: Transaction,
  customer: { name: string; phone: string; email: string },
  now: Date,
): Promise<string> {
  const id = randomUUID();
  await tx
    .insert(customers)
    .values({ id, ...customer, search: searchOf(customer), createdAt: now });
  return id;
}

/** Who is called so and has that telephone. */
export async function sameCustomer(
  tx: Transaction,
  { name, phone }: { name: string; phone: string },
): Promise<string | null> {
  const [same] = await tx
    .select({ id: customers.id })
    .from(customers)
    .where(and(eq(customers.name, name), eq(customers.phone, phone)))
    .orderBy(customers.createdAt)
    .limit(1);
  return same?.id ?? null;
}

/** All that customers are found by, in the order of their names. */
const SEARCH_INDEX = 'customers_name_search';

/** By name, telephone or address; a few. */
export async function findCustomers(db: Database, text: string): Promise<Customer[]> {
  // Asked by itself, it is answered from the index alone.
  const found = await db
    .select({ id: customers.id })
    .from(customers, { forceIndex: SEARCH_INDEX })
    .where(isFoundBy(customers.search, text))
    .orderBy(customers.name)
    .limit(8);
  if (found.length === 0) return [];
  const ids = found.map(({ id }) => id);
  const rows = await db
    .select()
    .from(customers)
    .where(inArray(customers.id, ids))
    .orderBy(customers.name);
  return rows.map(customerView);
}
