import { QueryObserver } from '@tanstack/react-query';
import { expect, test } from 'vitest';
import { ShopClient } from './shop-client.js';

test('a first answer that was on its way when something changed is asked for once more', async () => {
  const client = new ShopClient();
  const answers: ((answer: string) => void)[] = [];
  const observer = new QueryObserver(client, {
    queryKey: ['things'],
    queryFn: () => new Promise<string>((answer) => answers.push(answer)),
    staleTime: Infinity,
  });
  const stop = observer.subscribe(() => undefined);
  void client.invalidateQueries({ queryKey: ['things'] });
  expect(answers).toHaveLength(1);
  answers[0]?.('as it was before');
  await expect.poll(() => answers).toHaveLength(2);
  answers[1]?.('as it is');
  await expect.poll(() => observer.getCurrentResult().data).toBe('as it is');
  // What nothing changed meanwhile is asked once.
  expect(answers).toHaveLength(2);
  stop();
  client.clear();
});
