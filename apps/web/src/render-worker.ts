import '@tazzel/renderer/web-worker';
