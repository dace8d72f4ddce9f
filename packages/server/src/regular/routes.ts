import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';

/** What is taken regularly. */
export function regularRoutes({ answer, regular }: Served): void {
  answer(routes.regularWork, () => regular.list());
  answer(routes.schedule, async ({ context, params, body }) => {
    await regular.add(context, params.number, body);
    return regular.list();
  });
  answer(routes.keepInStep, async ({ context, params, body }) => {
    await regular.keepInStep(context, params.number, body.partner);
    return regular.list();
  });
  answer(routes.endSchedule, async ({ context, params }) => {
    await regular.end(context, params.id);
    return regular.list();
  });
  answer(routes.armSchedule, async ({ context, params, body }) => {
    const deviceId = await regular.deviceOf(params.id);
    await context.desks.use(deviceId, body, 'regular', 'forget', ({ password }) =>
      regular.arm(context, params.id, password),
    );
    return regular.list();
  });
}
