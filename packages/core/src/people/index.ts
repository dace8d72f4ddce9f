export * from './password.js';
export * from './sign-in.js';
