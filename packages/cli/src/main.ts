import { Command, CommanderError } from 'commander';
import { Failure } from '@bright-cellar/core';
import {
  copy,
  prune,
  reindex,
  rekey,
  repair,
  type PruneOptions,
  type RekeyOptions,
} from './commands/care.js';
import { catalogue, type CatalogueOptions } from './commands/catalogue.js';
import { list, type ListOptions } from './commands/list.js';
import { pack, type PackOptions } from './commands/pack.js';
import {
  exportCommand,
  importCommand,
  type ExportCommandOptions,
  type ImportCommandOptions,
} from './commands/packages.js';
import { unpack, type UnpackCommandOptions } from './commands/unpack.js';
import { verify, type VerifyCommandOptions } from './commands/verify.js';
import { exitCodes, Output } from './output.js';
import type { SecretOptions } from './secrets.js';
import { UsageError } from './usage.js';

/** `cellar`, the archive engine on the command line. docs/cellar.md says how it is used. */
const stopped = new AbortController();
for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => stopped.abort(new Failure('work-stopped')));
}

type Action<Options, Subject = string> = (
  subject: Subject,
  options: Options,
  output: Output,
  signal: AbortSignal,
) => Promise<boolean>;

/** Runs a command; it answers whether everything was whole. */
function run<Options, Subject = string>(action: Action<Options, Subject>) {
  return async (subject: Subject, options: Options & { json?: boolean }): Promise<void> => {
    const output = new Output(options.json ?? false);
    try {
      const whole = await action(subject, options, output, stopped.signal);
      process.exitCode = whole ? exitCodes.whole : exitCodes.wrong;
    } catch (error) {
      if (error instanceof UsageError) {
        process.stderr.write(`${error.message}\n`);
        process.exitCode = exitCodes.usage;
      } else {
        output.fail(error);
        process.exitCode = exitCodes.wrong;
      }
    }
  };
}

const program = new Command('cellar')
  .description('Encrypted archives of devices and folders')
  .exitOverride()
  .showHelpAfterError('(cellar COMMAND --help says more)');

const command = (usage: string, description: string) =>
  program.command(usage).description(description).option('--json', 'one JSON object a line');
const PASSWORD = ['--password-file <file>', 'file whose first line is the password'] as const;
const IDENTITY = [
  '--identity-file <file>',
  'age identity of the escrow holder, instead of the password',
] as const;

command('pack <folder>', 'take a backup of a folder; what was packed before is not read again')
  .requiredOption('--archive <dir>', 'the archive; a new one where there is none')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--label <text>', 'what to call the backup')
  .option('--escrow <recipient>', 'age recipient that may open the archive too')
  .action(run<PackOptions>(pack));

command('list <dir>', 'list the backups of an archive')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--items <backup>', 'and what is in that backup (latest, or an id)')
  .action(run<ListOptions>(list));

command('catalogue <dirs...>', 'what lies below folders, and with the passwords whose it is')
  .option('--password-file <file>', 'file of passwords that are tried, one a line')
  .action(run<CatalogueOptions, string[]>(catalogue));

command('verify <dir>', 'check an archive and keep a record of the proof')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--level <level>', 'structure, sample, bytes or full')
  .action(run<VerifyCommandOptions>(verify));

command('unpack <dir>', 'write a backup into an empty folder')
  .requiredOption('--to <folder>', 'an empty folder, or one that is not there yet')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--backup <id>', 'latest, or an id', 'latest')
  .option('--only <glob>', 'only items whose path matches')
  .option('--special-modes', 'set-uid, set-gid and sticky bits come back too')
  .action(run<UnpackCommandOptions>(unpack));

command('export <dir>', 'write a backup so that it opens without this program')
  .requiredOption('--to <file>', 'the package, usually called NAME.tar.age; with --stick a folder')
  .option('--stick', 'as a folder with a page that opens it in any browser, not as one age file')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--backup <id>', 'latest, or an id', 'latest')
  .option('--recipient <recipient>', 'age recipient, instead of the archive’s password')
  .action(run<ExportCommandOptions>(exportCommand));

command('import <file-or-folder>', 'take in a package, or an archive’s folder, after checking it')
  .requiredOption('--archive <dir>', 'where it goes')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--package-password-file <file>', 'password of the package, if it is another one')
  .option('--package-identity-file <file>', 'age identity that opens the package')
  .action(run<ImportCommandOptions>(importCommand));

command('rekey <dir>', 'change who can open an archive')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .option('--new-password-file <file>', 'file whose first line is the new password')
  .option('--new-data-key', 'and seal everything anew, so that old key files open nothing')
  .option('--escrow <recipient>', 'age recipient that may open the archive too')
  .option('--remove-escrow', 'take the key from the escrow recipient')
  .action(run<RekeyOptions>(rekey));

command('prune <dir>', 'remove backups and give their space back')
  .requiredOption('--keep <ids>', 'backups that stay, separated by commas (latest, or ids)')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .action(run<PruneOptions>(prune));

command('reindex <dir>', 'make lost or damaged indexes again from the packs')
  .option(...PASSWORD)
  .option(...IDENTITY)
  .action(run<SecretOptions>(reindex));

command('copy <dir>', 'make another copy of an archive, or bring one up to date, and read it back')
  .requiredOption('--to <dir>', 'the other copy; a new one where there is none')
  .action(run<{ to: string }>(copy));

command('repair <dir>', 'replace what is damaged from another copy')
  .requiredOption('--from <copy>', 'another copy of the same archive')
  .action(run<{ from: string }>(repair));

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof CommanderError)) throw error;
  process.exitCode = error.exitCode === 0 ? exitCodes.whole : exitCodes.usage;
}
