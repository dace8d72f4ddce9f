import { createSession } from 'better-sse';
import { randomInt } from 'node:crypto';
import { mkdir, stat, writeFile } from 'node:fs/promises';
import { basename, isAbsolute, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isEmptyFolder } from '@bright-cellar/adapter';
import { settlingIds } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';
import express, { type ErrorRequestHandler, type Router } from 'express';
import { z } from 'zod';
import type { Bench } from './bench.js';
import type { Drives } from './drives.js';
import { faultsSchema } from './cable.js';
import type { StandIn } from './stand-in.js';

const TRAY = fileURLToPath(new URL('../tray', import.meta.url));

const actionSchema = z.discriminatedUnion('do', [
  z.object({ do: z.literal('plug'), berth: z.int().min(1).optional() }),
  z.object({ do: z.literal('join-network') }),
  z.object({ do: z.literal('pull-cable') }),
  z.object({ do: z.literal('unlock'), passcode: z.string() }),
  z.object({ do: z.literal('lock') }),
  z.object({ do: z.literal('approve'), passcode: z.string() }),
  z.object({ do: z.literal('confirm'), passcode: z.string() }),
  z.object({ do: z.literal('workshop-port'), state: z.enum(['on', 'off']) }),
  z.object({ do: z.literal('wearable'), name: z.string().min(1).max(60).nullable() }),
  z.object({ do: z.literal('confirm-number'), application: z.string() }),
  z.object({ do: z.literal('settle'), step: z.enum(settlingIds) }),
  z.object({
    do: z.literal('offer-update'),
    update: z.object({ version: z.string(), bytes: z.int().min(0) }).nullable(),
  }),
  z.object({ do: z.literal('erase') }),
  z.object({ do: z.literal('owner-lock-off') }),
  z.object({ do: z.literal('leave-owner-lock') }),
  z.object({ do: z.literal('charge'), percent: z.int().min(0).max(100) }),
  z.object({ do: z.literal('write-note'), text: z.string().min(1).max(2000) }),
  z.object({ do: z.literal('faults'), faults: faultsSchema.partial() }),
]);
type Action = z.infer<typeof actionSchema>;

const driveActionSchema = z.object({ do: z.enum(['plug', 'pull']) });

const newDeviceSchema = z.object({
  folder: z.string().refine(isAbsolute),
  name: z.string().min(1).max(60).optional(),
  berth: z.int().min(1).optional(),
  /** Of the device, bytes. */
  capacity: z.int().min(1).default(512_000_000_000),
  /** Already unlocked and approved, so that a script need not press anything. */
  open: z.boolean().default(true),
});

/** What the tray shows of a device: what its own owner would see, so its passcode too. */
function trayView(device: StandIn) {
  return {
    facts: device.facts(),
    berth: device.berth,
    passcode: device.condition.passcodeSet ? device.definition.passcode : null,
    faults: device.cable.faults,
    folder: device.definition.folder,
  };
}

/** The control API (docs/device-link.md, "The stand-in bench") and the tray that uses it. Not part of the link. */
export function controlRoutes(bench: Bench, home: string, drives: Drives | null): Router {
  const router = express.Router();

  // Only programs on this machine, and only the tray's own page among browsers.
  router.use((request, response, next) => {
    const host = (request.headers.host ?? '').replace(/:\d+$/, '');
    const { origin } = request.headers;
    const local = host === '127.0.0.1' || host === 'localhost';
    if (local && (origin === undefined || origin === `http://${request.headers.host}`))
      return next();
    response.status(403).json({ error: 'not-authorised' });
  });
  router.use((_request, response, next) => {
    response.setHeader('content-security-policy', "default-src 'self'; img-src 'self' data:");
    response.setHeader('x-content-type-options', 'nosniff');
    next();
  });

  router.use(express.static(TRAY));
  router.use(express.json());

  router.get('/control/v1/devices', (_request, response) => {
    response.json({
      berths: bench.berths.cables,
      devices: [...bench.devices.values()].map(trayView),
    });
  });

  router.get('/control/v1/drives', async (_request, response) => {
    response.json({ drives: (await drives?.list()) ?? [] });
  });

  router.post('/control/v1/drives/:name', async (request, response) => {
    const { do: action } = driveActionSchema.parse(request.body);
    if (!(await drives?.turn(request.params.name, action === 'plug'))) {
      throw new LinkError('not-valid');
    }
    bench.tellTray();
    response.json({ drives: await drives?.list() });
  });

  router.get('/control/v1/changes', async (request, response) => {
    const session = await createSession(request, response);
    session.once(
      'disconnected',
      bench.onTray(() => session.push('changed')),
    );
  });

  router.post('/control/v1/devices', async (request, response) => {
    const wanted = newDeviceSchema.parse(request.body);
    await mkdir(wanted.folder, { recursive: true });
    if (!(await stat(wanted.folder)).isDirectory()) throw new LinkError('not-valid');
    const berth = wanted.berth ?? bench.berths.free();
    if (berth !== null) mustBeFree(bench, berth);
    const number = randomInt(1000, 10_000);
    const device = await bench.add(
      {
        id: `folder-${number}-${bench.devices.size}`,
        family: 'vireo',
        kind: 'phone',
        model: 'Folder',
        name: wanted.name ?? basename(wanted.folder),
        serial: `VXFOLDER${number}`,
        imei: null,
        osVersion: '17.4',
        capacity: wanted.capacity,
        passcode: null,
        folder: wanted.folder,
      },
      {
        berth,
        unlocked: true,
        approved: wanted.open,
        ownerLock: 'off',
        charge: 90,
        passcodeSet: false,
        contents: (await isEmptyFolder(wanted.folder)) ? null : wanted.folder,
      },
    );
    response.status(201).json(trayView(device));
  });

  router.post('/control/v1/devices/:id', async (request, response) => {
    const device = bench.devices.get(request.params.id);
    if (!device) throw new LinkError('no-such-device');
    await press(bench, device, actionSchema.parse(request.body), home);
    response.json(trayView(device));
  });

  router.use(((error: unknown, _request, response, next) => {
    if (response.headersSent) return next(error);
    const code = error instanceof LinkError ? error.code : 'not-valid';
    response.status(409).json({ error: code });
  }) satisfies ErrorRequestHandler);
  return router;
}

/** @throws LinkError `busy` when there is no such cable, or something hangs on it. */
function mustBeFree(bench: Bench, berth: number): void {
  const taken = bench.berths.present().some((other) => other.berth === berth);
  if (berth > bench.berths.cables || taken) throw new LinkError('busy');
}

async function press(bench: Bench, device: StandIn, action: Action, home: string): Promise<void> {
  switch (action.do) {
    case 'plug': {
      const berth = action.berth ?? bench.berths.free();
      if (berth === null || device.berth !== null) throw new LinkError('busy');
      mustBeFree(bench, berth);
      await device.rescan();
      return device.plug(berth);
    }
    case 'join-network': {
      const place = bench.berths.free('network');
      if (place === null || device.berth !== null) throw new LinkError('busy');
      await device.rescan();
      return device.plug(place, 'network');
    }
    case 'pull-cable':
      return device.unplug();
    case 'confirm':
      return device.confirmBackup(action.passcode);
    case 'workshop-port':
      return device.setWorkshopPort(action.state);
    case 'wearable':
      return device.setWearable(action.name);
    case 'confirm-number':
      return device.confirmStore(action.application);
    case 'settle':
      return device.settle(action.step);
    case 'offer-update':
      return device.setOsUpdate(action.update);
    case 'unlock':
      return device.unlock(action.passcode);
    case 'lock':
      return device.lock();
    case 'approve':
      return device.approve(action.passcode);
    case 'erase':
      return device.erase();
    case 'owner-lock-off':
      return device.ownerLockOff();
    case 'leave-owner-lock':
      return device.leaveOwnerLock();
    case 'charge':
      return device.setCharge(action.percent);
    case 'write-note':
      return writeNote(device, action.text, home);
    case 'faults': {
      device.cable.faults = faultsSchema.parse({ ...device.cable.faults, ...action.faults });
      return;
    }
  }
}

/** The device's owner uses it: its contents are not what they were. Never writes into somebody's own folder. */
async function writeNote(device: StandIn, text: string, home: string): Promise<void> {
  const { contents } = device.condition;
  if (!contents?.startsWith(home)) throw new LinkError('not-capable');
  await mkdir(join(contents, 'notes'), { recursive: true });
  await writeFile(join(contents, 'notes', `new-${Date.now()}.md`), `${text}\n`);
  await device.rescan();
  device.setCharge(device.condition.charge);
}
