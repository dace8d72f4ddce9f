import { useQuery } from '@tanstack/react-query';
import {
  certificatePath,
  routes,
  type Archive,
  type Backup,
  type Operation,
} from '@bright-cellar/contract';
import {
  countOf,
  dataClasses,
  formatBytes,
  formatCount,
  osVersionRead,
  passwordHolders,
  formatDuration,
} from '@bright-cellar/core';
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { MayButton } from '../account/may-button.js';
import { MoreMenu } from '../account/more-menu.js';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { dateTime } from '../design/dates.js';
import { ButtonLink } from '../design/button.js';
import { Facts, Figure } from '../design/figures.js';
import { Loading } from '../design/loading.js';
import { ProofMark } from '../design/mark.js';
import { ProblemNote } from '../design/note.js';
import { Page, Section } from '../design/page.js';
import { Digest, Serial } from '../design/serial.js';
import { KeepingSection } from '../keep/keeping-section.js';
import { OperationPanel } from '../operation/operation-panel.js';
import { ArchiveTimeline } from './archive-timeline.js';
import { levelNames } from '../design/level-words.js';
import { CopiesSection } from './copies-section.js';
import { CopyOverlay } from './copy-overlay.js';
import { CoverageList } from '../plan/coverage-list.js';
import { EscrowOverlay } from './escrow-overlay.js';
import { ExportOverlay, ImportOverlay } from './package-overlays.js';
import { PasswordOverlay } from './password-overlay.js';
import { PruneOverlay } from './prune-overlay.js';
import { BeginLook } from '../look/begin-look.js';
import { ProveForm } from './prove-form.js';

/** One archive: when it was filled and proven, what is in it, and where it lies. */
export function ArchivePage() {
  const { id = '' } = useParams();
  const archive = useQuery(queries.archive(id));
  const isCheck = useSearchParams()[0].has('check');
  const [asked, setAsked] = useState<
    'look' | 'copy' | 'export' | 'import' | 'password' | 'lost' | 'prune' | null
  >(isCheck ? 'look' : null);
  const [started, setStarted] = useState<Operation | null>(null);
  const running = useQuery(queries.operations()).data?.find((o) => o.archiveId === id);
  if (archive.isPending) return <Loading what="Fetching the archive" />;
  if (archive.error) {
    return (
      <Page title="Archive" now="Go back to the archives and choose again." calm>
        <ProblemNote problem={problemFrom(archive.error)} />
      </Page>
    );
  }
  const { data } = archive;
  if (data.disposal) return <Destroyed archive={data} disposal={data.disposal} />;
  const newest = data.backups[0];
  const busy = running !== undefined;
  const shown = running ?? started;
  const close = () => setAsked(null);
  const remember = (operation: Operation) => {
    setStarted(operation);
    close();
  };
  const now = whatNow(data, running);
  return (
    <Page
      title={`Archive of ${data.device.name}`}
      now={now.sentence}
      calm={!now.needs}
      aside={
        <span className="flex gap-2">
          {newest && (
            <MoreMenu
              label="More to do with this archive"
              items={[
                {
                  name: 'Copy onto another rack',
                  permission: routes.startCopy.access,
                  disabled: busy,
                  onSelect: () => setAsked('copy'),
                },
                {
                  name: 'Write a package to take along',
                  permission: routes.startExport.access,
                  disabled: busy,
                  onSelect: () => setAsked('export'),
                },
                {
                  name: 'Take a package in',
                  permission: routes.startImport.access,
                  disabled: busy,
                  onSelect: () => setAsked('import'),
                },
                {
                  name: 'Take old backups out',
                  permission: routes.startPrune.access,
                  disabled: busy || data.backups.length < 2,
                  onSelect: () => setAsked('prune'),
                },
                {
                  name: 'Change the password',
                  permission: routes.changePassword.access,
                  disabled: busy,
                  onSelect: () => setAsked('password'),
                },
                {
                  name: 'The password is lost',
                  permission: routes.openByEscrow.access,
                  disabled: busy,
                  onSelect: () => setAsked('lost'),
                },
              ]}
            />
          )}
          {newest && (
            <MayButton permission={routes.beginLookIn.access} onClick={() => setAsked('look')}>
              Look inside …
            </MayButton>
          )}
          <ButtonLink to={`/tickets/${data.ticketNumber}`}>Ticket {data.ticketNumber}</ButtonLink>
          {newest && (
            <ButtonLink look="main" to={`/restore/${data.id}/${newest.id}`}>
              Restore it
            </ButtonLink>
          )}
        </span>
      }
    >
      {shown && shown.kind !== 'prove' && (
        <Section title={workTitles[shown.kind] ?? 'Work on it'}>
          <OperationPanel id={shown.id} />
        </Section>
      )}
      <ArchiveTimeline archive={data} />
      <div className="grid grid-cols-1 lg:grid-cols-[minmax(0,1fr)_20rem] items-start gap-8">
        {newest && (
          <div className="flex min-w-0 flex-col gap-5">
            <InIt backup={newest} />
            <NotInIt backup={newest} />
          </div>
        )}
        <div className="flex flex-col gap-5">
          <Section
            title="Proof"
            aside={<ProofMark provenAt={data.provenAt} damaged={data.damaged} />}
          >
            {running?.kind === 'prove' ? (
              <OperationPanel id={running.id} />
            ) : (
              newest && (
                <ProveForm
                  ticket={data.ticketNumber}
                  backupId={newest.id}
                  reminder={data.reminder}
                />
              )
            )}
            <ol className="flex flex-col gap-2 text-small">
              {newest?.proofs.map((proof) => (
                <li key={proof.id}>
                  <span className="text-soft">
                    {dateTime(proof.at)}, {proof.by}: {levelNames[proof.level].toLowerCase()}
                  </span>
                  <br />
                  {proof.what}
                </li>
              ))}
            </ol>
          </Section>
          <CopiesSection archive={data} busy={busy} onStarted={setStarted} />
          <KeepingSection archive={data} busy={busy} onHandOut={() => setAsked('export')} />
          <Section title="About it">
            <Facts
              facts={[
                ['Customer', data.customerName],
                ['Device', `${data.device.familyName} ${data.device.model}`],
                ['Serial', <Serial key="s">{data.device.serial}</Serial>],
                [
                  'Password',
                  `held by ${passwordHolders[data.passwordHolder] ?? data.passwordHolder}`,
                ],
              ]}
            />
          </Section>
        </div>
      </div>
      {asked === 'look' && <BeginLook archive={data} isCheck={isCheck} onClose={close} />}
      {asked === 'copy' && <CopyOverlay archive={data} onClose={close} onStarted={remember} />}
      {asked === 'export' && newest && (
        <ExportOverlay archive={data} backup={newest} onClose={close} onStarted={remember} />
      )}
      {asked === 'import' && <ImportOverlay archive={data} onClose={close} onStarted={remember} />}
      {asked === 'lost' && <EscrowOverlay archive={data} onClose={() => setAsked(null)} />}
      {asked === 'prune' && <PruneOverlay archive={data} onClose={close} onStarted={remember} />}
      {asked === 'password' && <PasswordOverlay archive={data} onClose={close} />}
    </Page>
  );
}

/** What is left to say of an archive that was destroyed. */
function Destroyed({
  archive,
  disposal: { id, number, doneAt },
}: {
  archive: Archive;
  disposal: NonNullable<Archive['disposal']>;
}) {
  return (
    <Page
      title={`Archive of ${archive.device.name}`}
      now={
        doneAt
          ? `It was destroyed: the last copy was seen to be gone on ${dateTime(doneAt)}.`
          : 'It is being destroyed. What lies on racks that are away goes when they are seen.'
      }
      calm
      aside={
        <span className="flex gap-2">
          <ButtonLink to="/keeping">What is kept, and until when</ButtonLink>
          <a
            href={certificatePath(id)}
            target="_blank"
            rel="noreferrer"
            className="inline-flex h-9 items-center rounded-sm border border-edge bg-surface px-4 font-semibold hover:bg-ground"
          >
            Certificate {number}
          </a>
        </span>
      }
    >
      {null}
    </Page>
  );
}

const workTitles: Partial<Record<Operation['kind'], string>> = {
  copy: 'Copy onto another rack',
  check: 'Reading a copy back',
  repair: 'Repair of a copy',
  export: 'Package to take along',
  import: 'Taking a package in',
  bringIn: 'Brought in',
  prune: 'Taking old backups out',
  backup: 'Backup',
  restore: 'Restore',
};

function whatNow(
  archive: Archive,
  running: Operation | undefined,
): { sentence: string; needs: boolean } {
  if (running)
    return {
      needs: false,
      sentence:
        running.kind === 'prove'
          ? 'The proof is running. Nothing to do until it ends.'
          : 'Work on this archive is running.',
    };
  const broken = archive.copies.find(({ state }) => state === 'damaged');
  const good = archive.copies.find(({ state, isNewest }) => state !== 'damaged' && isNewest);
  if (broken && good)
    return {
      needs: true,
      sentence: good.present
        ? `The copy on ${broken.rackName} is damaged: repair it from ${good.rackName}.`
        : `The copy on ${broken.rackName} is damaged: connect ${good.rackName} and repair it from there.`,
    };
  if (archive.damaged)
    return {
      needs: true,
      sentence:
        'The last proof found damage: take a new backup, and erase nothing that relies on this one.',
    };
  if (!archive.copies.some((c) => c.present))
    return { needs: true, sentence: `Connect ${archive.rackName}: the archive is not there now.` };
  if (!archive.provenAt)
    return { needs: true, sentence: 'Prove it with its password before anything is erased.' };
  return { needs: false, sentence: `Proven on ${dateTime(archive.provenAt)}. It can be restored.` };
}

/** What a customer must not learn too late: what it does not hold, why, and how that comes back. */
function NotInIt({ backup }: { backup: Backup }) {
  const outside = backup.coverage.filter((line) => line.state !== 'inside');
  if (outside.length === 0) return null;
  return (
    <Section title="What it does not hold">
      <CoverageList lines={outside} />
    </Section>
  );
}

function InIt({ backup }: { backup: Backup }) {
  const failed = backup.failed.reduce((sum, f) => sum + f.count, 0);
  const largest = Math.max(1, ...backup.classes.map((c) => c.bytes));
  return (
    <Section title={`Backup of ${dateTime(backup.takenAt)}`}>
      <div className="flex flex-wrap gap-x-8 gap-y-2 pb-2">
        <Figure value={formatCount(backup.items)}>Items taken</Figure>
        <Figure value={formatCount(failed)}>Failed</Figure>
        <Figure value={formatBytes(backup.bytes)}>Size on device</Figure>
        <Figure
          value={formatBytes(backup.newBytes)}
          {...(backup.newBytes > 0 ? { of: `in ${countOf(backup.newItems, 'item')}` } : {})}
        >
          New in the archive
        </Figure>
        <Figure value={formatBytes(backup.storedBytes)}>Stored for it</Figure>
        <Figure value={formatDuration(backup.durationMs)}>Took</Figure>
        <Figure value={osVersionRead(backup.osVersion)}>OS version</Figure>
      </div>
      <table
        className="w-full border-collapse border border-line bg-surface text-left"
        aria-label="What is in it, by class"
      >
        <thead>
          <tr className="border-b border-edge text-small text-soft [&_th]:h-8 [&_th]:px-3 [&_th]:font-semibold">
            <th>Class</th>
            <th className="text-right">Items</th>
            <th className="text-right">Bytes</th>
            <th className="w-1/3">
              <span className="sr-only">Share</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {backup.classes.map((amount) => (
            <tr key={amount.class} className="h-7 border-b border-line last:border-b-0 [&_td]:px-3">
              <td>{dataClasses[amount.class]}</td>
              <td className="text-right">{formatCount(amount.items)}</td>
              <td className="text-right whitespace-nowrap">{formatBytes(amount.bytes)}</td>
              <td>
                <span className="flex items-center gap-2">
                  <span
                    className="h-2 bg-soft"
                    style={{ width: `${(amount.bytes / largest) * 70}%`, minWidth: 1 }}
                  />
                  <span className="text-small whitespace-nowrap text-soft">
                    {share(amount.bytes, backup.bytes)}
                  </span>
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {backup.failed.map((f) => (
        <p key={f.class + f.reason}>
          {dataClasses[f.class]}: {formatCount(f.count)} not taken, {f.reason}.
        </p>
      ))}
      <Facts
        facts={[
          ['Taken by', backup.takenBy],
          ['Digest', <Digest key="d">{backup.digest}</Digest>],
        ]}
      />
      <p className="text-small text-soft">
        The digest is the SHA-512 of the folder’s manifest; anybody can check it without the
        password.{' '}
        <Link className="underline" to="/archives">
          Back to the archives
        </Link>
      </p>
    </Section>
  );
}

function share(part: number, whole: number): string {
  const percent = whole > 0 ? (part / whole) * 100 : 0;
  return percent > 0 && percent < 1 ? '< 1 %' : `${Math.round(percent)} %`;
}
