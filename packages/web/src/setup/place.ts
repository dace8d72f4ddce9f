import type { Place } from '../app/place.js';

export const firstSteps: Place = {
  pages: { '/first-steps': async () => (await import('./first-steps-page.js')).FirstStepsPage },
  command: 'Go through the first steps of a shop',
  permission: 'house-rules',
};
