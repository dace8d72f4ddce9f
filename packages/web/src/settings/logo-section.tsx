import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { problem } from '@bright-cellar/core';
import { useId } from 'react';
import { MayButton } from '../account/may-button.js';
import { ApiFailure, call, problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Note, ProblemNote } from '../design/note.js';
import { Section } from '../design/page.js';

/** Pictures that are larger are none for a paper, and are not sent. */
const BYTES_MOST = 5e6;

/** The picture on the shop's papers. */
export function LogoSection() {
  const client = useQueryClient();
  const id = useId();
  const logo = useQuery(queries.logo());
  const known = (answer: { png: string | null }) =>
    client.setQueryData(queries.logo().queryKey, answer);
  const give = useMutation({
    mutationFn: async (file: File) =>
      call(routes.giveLogo, { body: { image: await base64Of(file) } }),
    onSuccess: known,
  });
  const drop = useMutation({ mutationFn: () => call(routes.dropLogo), onSuccess: known });
  const error = give.error ?? drop.error;
  const png = logo.data?.png;
  return (
    <Section title="The shop’s logo">
      <div className="flex max-w-2xl flex-col gap-3">
        {png ? (
          <div className="flex h-24 items-center self-start border border-line bg-white p-3">
            <img
              src={`data:image/png;base64,${png}`}
              alt="The logo, as it stands on papers"
              className="max-h-full max-w-60 object-contain"
            />
          </div>
        ) : (
          <p className="text-soft">
            None: papers carry the shop’s name alone. PNG, JPEG or WebP of at most 5 MB; it is drawn
            anew, and nothing else that came in the file is kept.
          </p>
        )}
        {error && <ProblemNote problem={problemFrom(error)} />}
        {give.isSuccess && png && <Note tone="proven">It stands on every paper from now on.</Note>}
        <div className="flex items-start gap-3">
          <input
            id={id}
            type="file"
            aria-label="Picture for the papers"
            accept="image/png,image/jpeg,image/webp"
            className="sr-only"
            tabIndex={-1}
            onChange={({ target }) => {
              const [file] = target.files ?? [];
              if (file) give.mutate(file);
              target.value = '';
            }}
          />
          <MayButton
            permission="house-rules"
            busy={give.isPending}
            onClick={() => document.getElementById(id)?.click()}
          >
            {png ? 'Choose another …' : 'Choose a picture …'}
          </MayButton>
          {png && (
            <MayButton permission="house-rules" busy={drop.isPending} onClick={() => drop.mutate()}>
              Take it away
            </MayButton>
          )}
        </div>
      </div>
    </Section>
  );
}

/** @throws Error where it is too large */
async function base64Of(file: File): Promise<string> {
  if (file.size > BYTES_MOST) {
    throw new ApiFailure(
      problem('input-not-valid', {
        what: 'That picture is larger than 5 MB.',
        safe: 'The papers are as they were.',
        next: 'Choose a smaller one.',
      }),
    );
  }
  const address = await new Promise<string>((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(typeof reader.result === 'string' ? reader.result : '');
    reader.onerror = () => reject(reader.error ?? new Error('not read'));
    reader.readAsDataURL(file);
  });
  return address.slice(address.indexOf(',') + 1);
}
