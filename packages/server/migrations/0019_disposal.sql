CREATE TABLE `disposal_copies` (
	`copy_id` char(36) NOT NULL,
	`disposal_id` char(36) NOT NULL,
	`rack_id` char(36) NOT NULL,
	`folder` varchar(255) NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	`digest` varchar(128) NOT NULL,
	`gone_at` datetime(3),
	`was_there` boolean,
	CONSTRAINT `disposal_copies_copy_id` PRIMARY KEY(`copy_id`)
);
--> statement-breakpoint
CREATE TABLE `disposals` (
	`id` char(36) NOT NULL,
	`number` int AUTO_INCREMENT NOT NULL,
	`archive_id` char(36) NOT NULL,
	`ticket_number` varchar(12) NOT NULL,
	`device_name` varchar(120) NOT NULL,
	`device` varchar(160) NOT NULL,
	`serial` varchar(64) NOT NULL,
	`customer_name` varchar(120) NOT NULL,
	`reason` varchar(300) NOT NULL,
	`backups` int NOT NULL,
	`first_taken_at` datetime(3) NOT NULL,
	`last_taken_at` datetime(3) NOT NULL,
	`decided_by` char(36) NOT NULL,
	`decided_at` datetime(3) NOT NULL,
	`done_at` datetime(3),
	CONSTRAINT `disposals_id` PRIMARY KEY(`id`),
	CONSTRAINT `disposals_number_unique` UNIQUE(`number`)
);
--> statement-breakpoint
CREATE TABLE `keepings` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`archive_id` char(36) NOT NULL,
	`kind` varchar(12) NOT NULL,
	`until` datetime(3),
	`reason` varchar(300) NOT NULL,
	`by` char(36) NOT NULL,
	`at` datetime(3) NOT NULL,
	`ended_at` datetime(3),
	CONSTRAINT `keepings_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `archive_rows` ADD `due_at` datetime(3);--> statement-breakpoint
ALTER TABLE `archive_rows` ADD `held` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `archives` ADD `disposed_at` datetime(3);--> statement-breakpoint
ALTER TABLE `disposal_copies` ADD CONSTRAINT `disposal_copies_disposal_id_disposals_id_fk` FOREIGN KEY (`disposal_id`) REFERENCES `disposals`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `disposal_copies` ADD CONSTRAINT `disposal_copies_rack_id_racks_id_fk` FOREIGN KEY (`rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `disposals` ADD CONSTRAINT `disposals_archive_id_archives_id_fk` FOREIGN KEY (`archive_id`) REFERENCES `archives`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `disposals` ADD CONSTRAINT `disposals_decided_by_technicians_id_fk` FOREIGN KEY (`decided_by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `keepings` ADD CONSTRAINT `keepings_archive_id_archives_id_fk` FOREIGN KEY (`archive_id`) REFERENCES `archives`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `keepings` ADD CONSTRAINT `keepings_by_technicians_id_fk` FOREIGN KEY (`by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `disposal_copies_disposal` ON `disposal_copies` (`disposal_id`);--> statement-breakpoint
CREATE INDEX `disposal_copies_owed` ON `disposal_copies` (`gone_at`,`rack_id`);--> statement-breakpoint
CREATE INDEX `disposals_done` ON `disposals` (`done_at`,`number`);--> statement-breakpoint
CREATE INDEX `keepings_archive` ON `keepings` (`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_due` ON `archive_rows` (`due_at`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_held` ON `archive_rows` (`held`,`archive_id`);