import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect as asIs, test as base, type Locator, type Page } from '@playwright/test';
import { Api } from './api.js';
import {
  openOwned,
  OWNED,
  PASSWORD,
  SIGN_IN,
  startTestProduct,
  type Product,
  type TestOptions,
} from './product.js';

/**
 * Waits for what is to be seen as a press on it would. The matcher that comes along draws the whole page as text at each look
 * that fails: an eighth of what the browser does here.
 */
export const expect = asIs.extend({
  async toBeVisible(locator: Locator, options: { timeout?: number } = {}) {
    const timeout = options.timeout ?? this.timeout;
    const state = this.isNot ? 'hidden' : 'visible';
    const why = await locator.waitFor({ state, timeout }).then(
      () => null,
      (error: unknown) => String(error),
    );
    return {
      pass: (why === null) !== this.isNot,
      message: () => `${String(locator)} should be ${state}\n${why ?? ''}`,
    };
  },
});

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** A technician's hands: what every journey does in the browser. */
export class Technician {
  readonly page: Page;
  readonly main: Locator;
  /** Refusals that the journey provoked on purpose: a browser logs each of them as a failed resource. */
  refusalsExpected = 0;
  readonly #noise: string[] = [];
  /** Devices that were pulled: a question about one may be on its way just then, and is refused. */
  readonly #pulled = new Set<string>();

  constructor(page: Page) {
    this.page = page;
    this.main = page.getByRole('main');
    page.on('console', (message) => {
      if (['error', 'warning'].includes(message.type()))
        this.#noise.push(`${message.text()} ${message.location().url}`);
    });
    page.on('pageerror', (error) => this.#noise.push(error.message));
  }

  async signIn(address: string): Promise<void> {
    await this.page.goto(address);
    await this.page.getByLabel('Name').fill(SIGN_IN.login);
    await this.page.getByLabel('Password').fill(SIGN_IN.password);
    await this.page.keyboard.press('Enter');
    await expect(this.heading('Counter')).toBeVisible();
  }

  /** Takes and proves a backup of the customer's phone, signs in, and opens the archive that it is in. */
  async openProvenArchive(
    product: Product,
  ): Promise<{ api: Api; ticket: string; archiveId: string; backupId: string }> {
    await openOwned(product);
    const api = await Api.signedIn(product);
    const proven = await api.provenBackup(OWNED);
    await this.signIn(product.address);
    await this.page.goto(`${product.address}/archives/${proven.archiveId}`);
    return { api, ...proven };
  }

  heading(name: string | RegExp): Locator {
    return this.main.getByRole('heading', { name, level: 1 });
  }

  async pulls(product: Product, device: string): Promise<void> {
    this.#pulled.add(device);
    await product.press(device, { do: 'pull-cable' });
  }

  /** The one sentence at the top: what to do now. */
  now(sentence: string | RegExp): Locator {
    return this.main.getByRole('status').filter({ hasText: sentence });
  }

  berth(number: number): Locator {
    return this.page.getByRole('region', { name: 'Bench' }).locator(`[data-berth="${number}"]`);
  }

  async openTicket(): Promise<string> {
    await this.main.getByRole('link', { name: 'Open a ticket' }).click();
    await this.main.getByLabel('Name').fill('Tamsin Orchardgate');
    await this.main.getByLabel('Phone').fill('+44 7700 900219');
    await this.main.getByLabel('The customer agreed').click();
    await this.main.getByRole('button', { name: 'Open the ticket' }).click();
    await expect(this.heading(/^Ticket \d+$/)).toBeVisible();
    return (await this.heading(/^Ticket/).innerText()).replace('Ticket ', '');
  }

  /** Opens the page on which a device is brought into step with the customer’s own books. */
  async goesInStep(product: Product, device: string): Promise<void> {
    const api = await Api.signedIn(product);
    const ticket = await api.openTicket(device);
    await api.agree(ticket, 'look-in');
    await this.signIn(product.address);
    await this.page.goto(`${product.address}/tickets/${ticket}`);
    await this.main.getByRole('link', { name: 'In step with their own books …' }).click();
  }

  /** Opens the first photograph of what is looked into, and sees it. */
  async looksAtPhotograph(): Promise<void> {
    await this.main.getByRole('button', { name: /^Photographs/ }).press('Enter');
    await this.main
      .getByRole('button', { name: /^Look at / })
      .first()
      .press('Enter');
    const picture = this.main.getByRole('img', { name: /^Picture photographs/ });
    await expect
      .poll(() => picture.evaluate((one: HTMLImageElement) => one.naturalWidth))
      .toBeGreaterThan(100);
  }

  async startBackup(): Promise<void> {
    await this.main.getByLabel('Password of the backup').fill(PASSWORD);
    await this.main.getByLabel('The same again').fill(PASSWORD);
    await expect(this.main.getByText('Strong: would hold')).toBeVisible();
    await this.main.getByRole('button', { name: 'Take the full backup' }).click();
  }

  async prove(password: string): Promise<void> {
    await this.main.getByLabel('Password of the backup').fill(password);
    await this.main.getByRole('button', { name: 'Prove it' }).click();
  }

  /** Nothing serious for axe on this screen, in both themes: they differ in nothing but their colours. */
  async looksSound(screen: string): Promise<void> {
    for (const theme of ['dim', 'day'] as const) {
      const rules = theme === 'day' ? {} : { runOnly: ['color-contrast'] };
      let serious = await this.#seriousIn(theme, rules);
      if (!serious) {
        await this.page.evaluate(axe);
        serious = await this.#seriousIn(theme, rules);
      }
      expect(serious, `${screen}, ${theme}`).toEqual([]);
    }
  }

  /** @returns what axe finds in a theme, which stays; null where axe was not brought to this page yet */
  #seriousIn(theme: 'day' | 'dim', rules: object): Promise<string[] | null> {
    return this.page.evaluate(
      async ({ shown, options }) => {
        document.documentElement.dataset.theme = shown;
        const { axe: checker } = window as unknown as {
          axe?: {
            run: (options: object) => Promise<{
              violations: { id: string; impact: string; nodes: { html: string }[] }[];
            }>;
          };
        };
        if (!checker) return null;
        const { violations } = await checker.run(options);
        return violations
          .filter((v) => v.impact === 'serious' || v.impact === 'critical')
          .map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' ')}`);
      },
      { shown: theme, options: { resultTypes: ['violations'], ...rules } },
    );
  }

  /** The browser had nothing to complain of but the refusals that were asked for. */
  expectQuiet(): void {
    const refusals = this.#noise.filter((text) => /status of 4\d\d/.test(text));
    expect(this.#noise.filter((text) => !refusals.includes(text))).toEqual([]);
    const isOfPulled = (text: string) =>
      text.includes('status of 409') && [...this.#pulled].some((id) => text.endsWith(`/${id}`));
    expect(refusals.filter((text) => !isOfPulled(text))).toHaveLength(this.refusalsExpected);
  }
}

export const test = base.extend<{
  lightPasswords: boolean;
  product: Product;
  technician: Technician;
}>({
  /** One journey does all the work that a password's key is made to take; the others next to none of it. */
  lightPasswords: [true, { option: true }],
  product: async ({ lightPasswords }, use, test) => {
    const product = await startTestProduct({ installMs: 1500, lightPasswords });
    await use(product);
    if (test.status !== test.expectedStatus) product.keepLogs(test.title);
    await product.stop();
  },
  technician: async ({ page }, use) => {
    await use(new Technician(page));
  },
});

/** One product for the journeys of a group, which go one after the other. */
export function sharedProduct(options?: TestOptions): () => Product {
  let product: Product | undefined;
  const shared = () => {
    if (!product) throw new Error('it is there while a journey goes on');
    return product;
  };
  test.describe.configure({ mode: 'serial' });
  test.beforeAll(async () => {
    product = await startTestProduct(options);
  });
  test.afterEach(() => {
    const { status, expectedStatus, title } = test.info();
    if (status !== expectedStatus) shared().keepLogs(title);
  });
  test.afterAll(() => product?.stop());
  return shared;
}
