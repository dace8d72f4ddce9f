import { randomUUID } from 'node:crypto';
import { deviceIdSchema, type DeviceId } from '@bright-cellar/core';

/** A device that is made up for a test. */
export const newDeviceId = (): DeviceId => deviceIdSchema.parse(randomUUID());
