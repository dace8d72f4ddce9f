import { Section } from '../design/page.js';

const ways: readonly [kind: string, how: string][] = [
  [
    'A computer with a desktop system',
    'Open the downloaded file, and put it among the authorities that the system trusts for websites: in its keys and certificates, or in the settings of the browser under privacy and security. An administrator may be asked.',
  ],
  [
    'A tablet or phone of the shop',
    'Bring the file onto it (a stick, or this page over the network), open it, and install it as an authority for websites. Some ask once more, in a list of trusted authorities, to switch it on.',
  ],
  [
    'A customer’s own phone',
    'Nothing is installed there. Its browser warns of an unknown authority: let customers type on a second screen of the shop, or give the program a certificate that phones know.',
  ],
];

/** How other computers come to trust the shop’s own authority. */
export function TrustSection({ fingerprint }: { fingerprint: string }) {
  return (
    <Section title="So that browsers trust it">
      <div className="flex max-w-3xl flex-col gap-3">
        <p>
          The program vouches for itself, and only for names and addresses inside the shop. Each
          computer is told once to trust it. Compare the fingerprint that it shows with this one:
        </p>
        <p className="font-mono text-small break-all">{fingerprint}</p>
        <dl className="flex flex-col gap-2">
          {ways.map(([kind, how]) => (
            <div key={kind}>
              <dt className="font-semibold">{kind}</dt>
              <dd>{how}</dd>
            </div>
          ))}
        </dl>
      </div>
    </Section>
  );
}
