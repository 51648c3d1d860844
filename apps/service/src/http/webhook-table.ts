import { EntitySchema } from 'typeorm';

export interface WebhookRow {
  deliveryId: string;
  at: Date;
}
export const WebhookEntity = new EntitySchema<WebhookRow>({
  name: 'webhook_seen',
  columns: { deliveryId: { type: 'text', primary: true, name: 'delivery_id' }, at: { type: 'timestamptz' } },
});
