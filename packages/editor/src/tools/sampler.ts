import { clickOrPan, type Tool } from './define.ts';

/** A click places a colour sampler that stays; on one that is there it takes it away. */
export const sampler: Tool = {
  id: 'sampler',
  label: 'Colour sampler',
  cursor: 'crosshair',
  stages: null,
  press: (host, place) =>
    clickOrPan(host, place, ({ at }) => {
      const pixel = host.pixelAt(at);
      if (!pixel) return;
      const { document } = host.session.getState();
      // So near to one that is there, a click means it.
      const near = document.size.height / 60;
      const kept = document.samplers.filter(([x, y]) => Math.hypot(x - pixel.x, y - pixel.y) > near);
      host.session.actions.edit({ type: 'set-samplers', samplers: kept.length < document.samplers.length ? kept : [...document.samplers, [pixel.x, pixel.y]] });
    }),
};
