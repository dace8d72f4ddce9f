import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Digest } from '../design/serial.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedExport: EndedPanel<'export'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.items)}>Items written</Figure>
        <Figure value={formatBytes(result.bytes)}>Size on device</Figure>
        <Figure value={formatBytes(result.packageBytes)}>Size of the package</Figure>
      </>
    }
  >
    {result.form === 'stick' ? (
      <p>
        Written as the folder <Digest>{result.wrote}</Digest> into the rack’s packages folder, and
        read back from there. Whoever opens the page in it, in any browser, chooses that folder and
        types the archive’s password.
      </p>
    ) : (
      <p>
        Written as <Digest>{result.wrote}</Digest> into the rack’s packages folder. It opens with{' '}
        <code className="font-mono">age -d FILE | tar x</code> and the archive’s password.
      </p>
    )}
  </Outcome>
);
