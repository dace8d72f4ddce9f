import { AUTHORITY_PATH, routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';

/** How other computers reach the program. */
export function networkRoutes({ app, answer, shop }: Served): void {
  const { network } = shop;
  answer(routes.network, () => network.view());
  answer(routes.changeNetwork, async ({ context, body }) => {
    await network.change(context, body);
    return network.view();
  });
  answer(routes.giveCertificate, async ({ context, body }) => {
    await network.give(context, body);
    return network.view();
  });
  // For everybody: it is no secret, and who does not trust it yet cannot sign in.
  app.get(AUTHORITY_PATH, async (_request, response) => {
    const certificate = await network.authorityCertificate();
    response.type('application/x-x509-ca-cert');
    response.setHeader('content-disposition', 'attachment; filename="bright-cellar-authority.crt"');
    response.send(certificate);
  });
}
