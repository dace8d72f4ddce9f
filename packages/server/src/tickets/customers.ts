import { randomUUID } from 'node:crypto';
import type { Customer } from '@bright-cellar/contract';
import { like, or } from 'drizzle-orm';
import { containing } from '../database/containing.js';
import type { Database, Transaction } from '../database/connect.js';
import { customers } from '../database/schema.js';

export const customerView = ({ id, name, phone, email }: Customer): Customer => ({
  id,
  name,
  phone,
  email,
});

/** @returns its id */
export async function addCustomer(
  tx: Transaction,
  customer: { name: string; phone: string; email: string },
  now: Date,
): Promise<string> {
  const id = randomUUID();
  await tx.insert(customers).values({ id, ...customer, createdAt: now });
  return id;
}

/** By name, telephone or address; a few. */
export async function findCustomers(db: Database, text: string): Promise<Customer[]> {
  const pattern = containing(text);
  return db
    .select({
      id: customers.id,
      name: customers.name,
      phone: customers.phone,
      email: customers.email,
    })
    .from(customers)
    .where(
      or(
        like(customers.name, pattern),
        like(customers.phone, pattern),
        like(customers.email, pattern),
      ),
    )
    .orderBy(customers.name)
    .limit(8);
}
