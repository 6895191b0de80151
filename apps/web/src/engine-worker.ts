import '@tazzel/engine/web-worker';
