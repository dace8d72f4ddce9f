ALTER TABLE `racks` ADD `present` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `capacity` bigint unsigned DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `free` bigint unsigned DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `seen_at` datetime(3);