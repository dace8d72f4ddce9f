// @ts-check
import { join } from 'node:path';

/**
 * A unit for systemd (`systemd.service(5)`, `systemd.exec(5)`) under which the product runs by itself, as a user of its own.
 * It may write where racks are, so no list of folders is given; what it has no business with it does not see.
 * @param {{ node: string, root: string, data: string, port: number, user: string }} where paths are absolute
 */
export function serviceUnit({ node, root, data, port, user }) {
  return `[Unit]
Description=Bright Cellar
After=local-fs.target network.target

[Service]
Type=exec
User=${user}
Group=${user}
ExecStart=${[node, join(root, 'scripts/start.mjs'), '--built', '--data', data, '--port', String(port)].map(quoted).join(' ')}
Restart=on-failure
RestartSec=5
# The database ends in order.
TimeoutStopSec=90
KillMode=mixed
UMask=0077

NoNewPrivileges=yes
CapabilityBoundingSet=
ProtectSystem=full
PrivateTmp=yes
PrivateDevices=yes
ProtectClock=yes
ProtectHostname=yes
ProtectControlGroups=yes
ProtectKernelLogs=yes
ProtectKernelModules=yes
ProtectKernelTunables=yes
RestrictAddressFamilies=AF_UNIX AF_INET AF_INET6
RestrictNamespaces=yes
RestrictRealtime=yes
RestrictSUIDSGID=yes
LockPersonality=yes
SystemCallArchitectures=native
SystemCallFilter=@system-service

[Install]
WantedBy=multi-user.target
`;
}

/** As systemd reads words: a sign of percent begins a specifier, and one of dollar a variable. @param {string} word */
const quoted = (word) =>
  `"${word.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('%', '%%').replaceAll('$', '$$$$')}"`;
