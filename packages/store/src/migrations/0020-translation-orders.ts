/*
 * Machines and agencies translate through connectors: addresses that are sent texts and give them back translated. An order has an
 * item for each entry; a rule orders by itself after an event. A trigger notes the events that rules have still to look at, so that a
 * save needs no statement of its own for it. Results are written in the name of their connector, and are not noted: otherwise one could
 * order itself again.
 */
export const name = '0020-translation-orders'

export const statements: readonly string[] = [
  `create table connectors (
     id text primary key, site text not null references sites (id), label text not null, address text not null, secret text not null,
     locales text not null, enabled integer not null, created_at text not null, created_by text not null
   ) strict`,
  `create index connectors_by_site on connectors (site, created_at)`,
  `create table translation_rules (
     id text primary key, site text not null references sites (id), connector text not null references connectors (id) on delete cascade,
     label text not null, event text not null, type text not null, condition text not null, locales text not null, publish integer not null,
     enabled integer not null, message text not null, created_at text not null, actor text not null
   ) strict`,
  `create index translation_rules_by_event on translation_rules (site, event) where enabled = 1`,
  `create index translation_rules_by_connector on translation_rules (connector)`,
  `create table translation_triggers (
     site text not null references sites (id), sequence integer not null, rule text not null references translation_rules (id) on delete cascade,
     entry text not null, primary key (site, sequence, rule)
   ) strict, without rowid`,
  `create index translation_triggers_by_rule on translation_triggers (rule)`,
  `create trigger events_noted_for_rules after insert on events
     when new.entry is not null and new.type in ('entry.published', 'entry.saved') and new.actor not like 'connector:%'
     begin insert into translation_triggers (site, sequence, rule, entry)
       select new.site, new.sequence, id, new.entry from translation_rules where site = new.site and event = new.type and enabled = 1; end`,
  `create table translation_orders (
     id text primary key, site text not null references sites (id), connector text not null references connectors (id) on delete cascade,
     rule text, locale text not null, publish integer not null, state text not null, total integer not null, done integer not null,
     failed integer not null, texts integer not null, words integer not null, actor text not null, created_at text not null, ended_at text
   ) strict`,
  `create index translation_orders_by_site on translation_orders (site, created_at)`,
  `create index translation_orders_by_connector on translation_orders (connector)`,
  `create table translation_order_items (
     id text primary key, order_id text not null references translation_orders (id) on delete cascade, position integer not null,
     entry text not null, locale text not null, title text not null, state text not null, attempts integer not null, next_at text,
     sent text, sent_at text, words integer not null, texts integer not null, outcomes text not null, message text not null,
     unique (order_id, position)
   ) strict`,
  `create index translation_order_items_due on translation_order_items (next_at) where next_at is not null`,
  `create index translation_order_items_by_entry on translation_order_items (entry, locale) where next_at is not null`,
]
