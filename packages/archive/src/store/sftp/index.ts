export { SftpConnection } from './connection.js';
export { SftpMedium } from './sftp-medium.js';
