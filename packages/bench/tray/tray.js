// @ts-check

/** The tray: shows what each stand-in's own screen shows, and presses it through the control API. */
const place = document.getElementById('devices');

/**
 * @typedef {{ facts: Record<string, any>, berth: number | null, passcode: string | null, folder: string | null }} Device
 */

/** @param {string} id @param {object} action */
async function press(id, action) {
  const response = await fetch(`/control/v1/devices/${id}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(action),
  });
  const note = document.querySelector(`[data-device="${id}"] .refused`);
  if (note) note.textContent = response.ok ? '' : 'The device says no.';
  await draw();
}

/** @param {string} name @param {Record<string, string>} [attributes] @param {(string | Node)[]} [inside] */
function element(name, attributes = {}, inside = []) {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  made.append(...inside);
  return made;
}

/**
 * One thing to press, with a value to type where it takes one.
 * @param {Device} device @param {string} name @param {(value: string) => object} action
 * @param {{ label: string, value: string } | null} typed @param {boolean} possible
 */
function control(device, name, action, typed, possible) {
  const { id } = device.facts;
  const button = element('button', { type: 'submit' }, [name]);
  if (!possible) button.setAttribute('disabled', '');
  const input = typed
    ? element('input', { name: 'value', value: typed.value, autocomplete: 'off' })
    : null;
  const form = element('form', { 'aria-label': name }, [
    ...(typed && input ? [element('label', {}, [`${typed.label} `, input])] : []),
    button,
  ]);
  form.addEventListener('submit', (event) => {
    event.preventDefault();
    void press(id, action(input instanceof HTMLInputElement ? input.value : ''));
  });
  return form;
}

/** What its owner does on a device that was filled. @type {Record<string, string>} */
const settling = {
  passcode: 'Set a passcode',
  account: 'Sign in to the account',
  code: 'Type the confirmation code',
  wifi: 'Join the Wi-Fi',
  places: 'Answer about place services',
};

/** @param {Device} device */
function card(device) {
  const { facts, berth, passcode } = device;
  const here = berth !== null;
  const code = { label: 'Passcode', value: passcode ?? '' };
  return element('article', { 'data-device': facts.id, 'aria-label': facts.name }, [
    element('h2', {}, [`${facts.name} (${facts.model})`]),
    element('p', { class: 'facts' }, [
      `${facts.serial}, ${here ? (facts.connection === 'network' ? 'on the shop network' : `berth ${berth}`) : 'not plugged in'}, charge ${facts.charge} %, owner lock ${facts.ownerLock}, ${facts.empty ? 'empty' : 'in use'}`,
    ]),
    element('div', { class: 'screen' }, [facts.screen]),
    element('p', { class: 'refused', role: 'status' }),
    ...(here
      ? []
      : [control(device, 'Join the shop network', () => ({ do: 'join-network' }), null, true)]),
    here
      ? control(
          device,
          facts.connection === 'network' ? 'Leave the network' : 'Pull the cable',
          () => ({ do: 'pull-cable' }),
          null,
          true,
        )
      : control(
          device,
          'Plug in',
          (v) => ({ do: 'plug', ...(v ? { berth: Number(v) } : {}) }),
          { label: 'Berth', value: '' },
          true,
        ),
    control(
      device,
      'Unlock',
      (v) => ({ do: 'unlock', passcode: v }),
      code,
      facts.lock === 'locked',
    ),
    control(
      device,
      'Approve this bench',
      (v) => ({ do: 'approve', passcode: v }),
      code,
      here && facts.approval === 'asking',
    ),
    ...(facts.confirmation === 'asking'
      ? [control(device, 'Confirm the backup', (v) => ({ do: 'confirm', passcode: v }), code, true)]
      : []),
    ...(facts.workshopPort !== null
      ? [
          control(
            device,
            facts.workshopPort === 'on' ? 'Workshop port off' : 'Workshop port on',
            () => ({
              do: 'workshop-port',
              state: facts.workshopPort === 'on' ? 'off' : 'on',
            }),
            null,
            facts.lock !== 'locked',
          ),
        ]
      : []),
    ...(facts.wearable
      ? [
          control(
            device,
            `Unpair ${facts.wearable}`,
            () => ({ do: 'wearable', name: null }),
            null,
            facts.lock !== 'locked',
          ),
        ]
      : []),
    ...facts.sealedStores
      .filter((/** @type {{ confirmed: boolean }} */ store) => !store.confirmed)
      .map((/** @type {{ group: string, name: string }} */ store) =>
        control(
          device,
          `Confirm the number in ${store.name}`,
          () => ({ do: 'confirm-number', application: store.group }),
          null,
          true,
        ),
      ),
    ...facts.settling
      .filter(
        (/** @type {{ id: string, done: number, of: number }} */ step) =>
          step.done < step.of && step.id in settling,
      )
      .map((/** @type {{ id: string }} */ step) =>
        control(
          device,
          settling[step.id] ?? step.id,
          () => ({ do: 'settle', step: step.id }),
          null,
          facts.lock !== 'locked',
        ),
      ),
    control(device, 'Lock', () => ({ do: 'lock' }), null, facts.lock === 'unlocked'),
    control(
      device,
      'Switch off the owner lock',
      () => ({ do: 'owner-lock-off' }),
      null,
      facts.ownerLock !== 'off',
    ),
    control(
      device,
      'Leave an owner lock that nobody sees yet',
      () => ({ do: 'leave-owner-lock' }),
      null,
      facts.ownerLock === 'off',
    ),
    control(
      device,
      'Set charge',
      (v) => ({ do: 'charge', percent: Number(v) }),
      { label: 'Percent', value: String(facts.charge) },
      true,
    ),
    control(
      device,
      'Write a note',
      () => ({ do: 'write-note', text: 'Written on the device.' }),
      null,
      !facts.empty && !device.folder && facts.lock !== 'locked',
    ),
    control(
      device,
      'Erase everything',
      () => ({ do: 'erase' }),
      null,
      facts.activity === 'idle' && !facts.empty,
    ),
  ]);
}

const shelf = document.getElementById('drives');

/** @param {{ name: string, plugged: boolean }} drive */
function driveLine({ name, plugged }) {
  const button = element(
    'button',
    { type: 'button', 'aria-label': `${name}: ${plugged ? 'pull' : 'plug in'}` },
    [plugged ? 'Pull it' : 'Plug it in'],
  );
  button.addEventListener('click', async () => {
    await fetch(`/control/v1/drives/${encodeURIComponent(name)}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ do: plugged ? 'pull' : 'plug' }),
    });
    await drawDrives();
  });
  return element('li', {}, [`${name}, ${plugged ? 'plugged in' : 'in the drawer'} `, button]);
}

let shelved = '';
async function drawDrives() {
  const text = await (await fetch('/control/v1/drives')).text();
  if (text === shelved) return;
  shelved = text;
  const { drives } = JSON.parse(text);
  const at = document.activeElement?.closest('li')
    ? document.activeElement.getAttribute('aria-label')
    : null;
  const list = element('ul', {}, drives.map(driveLine));
  shelf?.replaceChildren(...(drives.length > 0 ? [element('h2', {}, ['Drives']), list] : []));
  const name = at?.split(':')[0];
  const again = name ? document.querySelector(`#drives button[aria-label^="${name}:"]`) : null;
  if (again instanceof HTMLElement) again.focus();
}

let drawn = '';
async function draw() {
  void drawDrives();
  const response = await fetch('/control/v1/devices');
  const text = await response.text();
  // What somebody is typing stays: the page is drawn again only when something changed.
  if (text === drawn) return;
  drawn = text;
  const { devices } = JSON.parse(text);
  const at = document.activeElement?.closest('[data-device]')?.getAttribute('data-device');
  const on = document.activeElement?.closest('form')?.getAttribute('aria-label');
  place?.replaceChildren(...devices.map(card));
  if (at && on) {
    const again = document.querySelector(`[data-device="${at}"] form[aria-label="${on}"] button`);
    if (again instanceof HTMLElement) again.focus();
  }
}

new EventSource('/control/v1/changes').addEventListener('message', () => void draw());
void draw();
