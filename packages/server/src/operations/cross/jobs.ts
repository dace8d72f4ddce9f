import type { Job } from '../../engine/job.js';

/** Work that puts something onto a device, beside what is on it or while it is empty. */
export type SendingJob = Job<'cross'> | Job<'bringBack'> | Job<'bringApplications'>;
/** Work that looks first at what is there. */
export type LookingJob = Job<'foresee'> | SendingJob;
/** Work that fills a device. */
export type FillingJob = Job<'restore'> | SendingJob;
