import type { Response } from 'express';

/** What goes to a browser as bytes stays in none, and does nothing there. */
export function keptNowhere(response: Response): void {
  response.setHeader('cache-control', 'no-store');
  response.setHeader('content-security-policy', "default-src 'none'; sandbox");
  response.setHeader('x-content-type-options', 'nosniff');
}
