/** The list of deliveries. */
import { LIMITS } from '../../limits.ts';
import type { Delivery, TazzelDocument } from '../../model/model.ts';
import { freshId } from '../../model/query.ts';
import { type Handlers, named, refuse } from './define.ts';

export type DeliveryEdit =
  | { type: 'add-delivery'; delivery: Omit<Delivery, 'id'> }
  | { type: 'set-delivery'; deliveryId: string; patch: Partial<Omit<Delivery, 'id'>> }
  | { type: 'remove-delivery'; deliveryId: string };

const find = ({ deliveries }: TazzelDocument, id: string): Delivery => deliveries.find((delivery) => delivery.id === id) ?? refuse(`There is no delivery ${id}.`);

export const deliveryEdits: Handlers<DeliveryEdit> = {
  'add-delivery': {
    label: 'Add to the deliveries',
    apply: (document, { delivery }) => {
      if (document.deliveries.length >= LIMITS.deliveries) refuse(`A document keeps at most ${LIMITS.deliveries} deliveries. Remove one first.`);
      return { ...document, deliveries: [...document.deliveries, { ...delivery, name: named(delivery.name, 'a delivery'), id: freshId(document, 'delivery') }] };
    },
  },
  'set-delivery': {
    label: 'Change delivery',
    apply: (document, { deliveryId, patch }) => {
      const delivery = find(document, deliveryId);
      const changed = { ...delivery, ...patch, ...(patch.name === undefined ? {} : { name: named(patch.name, 'a delivery') }), id: delivery.id };
      return { ...document, deliveries: document.deliveries.map((each) => (each === delivery ? changed : each)) };
    },
  },
  'remove-delivery': {
    label: 'Remove delivery',
    apply: (document, { deliveryId }) => {
      const delivery = find(document, deliveryId);
      return { ...document, deliveries: document.deliveries.filter((each) => each !== delivery) };
    },
  },
};
