import { prepared } from './prepare.js';

/** Before the first process of an installation starts: its database is brought up to date, and nothing is put in it. */
const { connection } = await prepared(process.env);
await connection.close();
