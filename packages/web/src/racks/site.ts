import { rackSiteSchema, type RackSite } from '@bright-cellar/core';

type Of<Kind extends RackSite['kind']> = Omit<Extract<RackSite, { kind: Kind }>, 'kind'>;
/** A box on the network, as it is being typed; its host key is empty until somebody compared it. */
export type Box = Of<'sftp'> & { secret: string };
export type Objects = Of<'objects'> & { secret: string };

export const noBox: Box = {
  ...{ host: '', port: 22, user: '', path: '', hostKey: '', login: 'password', secret: '' },
};
export const noObjects: Objects = {
  ...{ endpoint: '', region: '', bucket: '', prefix: '', capacity: 1e12 },
  ...{ accessKey: '', secret: '' },
};

/** What is asked of the server; null until everything was said. */
export function placeOf(
  site:
    | { kind: 'folder'; path: string }
    | ({ kind: 'sftp' } & Box)
    | ({ kind: 'objects' } & Objects),
): { site: RackSite; secret: string } | null {
  const secret = 'secret' in site ? site.secret : '';
  const parsed = rackSiteSchema.safeParse(site).data;
  if (!parsed || (parsed.kind !== 'folder' && secret === '')) return null;
  return { site: parsed, secret };
}
