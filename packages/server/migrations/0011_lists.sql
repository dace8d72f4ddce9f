CREATE TABLE `archive_rows` (
	`archive_id` char(36) NOT NULL,
	`taken_at` datetime(3) NOT NULL,
	`items` int NOT NULL,
	`bytes` bigint unsigned NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	`device_name` varchar(120) NOT NULL,
	`serial` varchar(64) NOT NULL,
	`customer_name` varchar(120) NOT NULL,
	`ticket_number` varchar(12) NOT NULL,
	`rack_name` varchar(200) NOT NULL,
	`proven_at` datetime(3),
	`proof` varchar(10) NOT NULL,
	`search` varbinary(800) NOT NULL,
	CONSTRAINT `archive_rows_archive_id` PRIMARY KEY(`archive_id`)
);
--> statement-breakpoint
ALTER TABLE `customers` ADD `search` varbinary(800) NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `archives` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `stored_bytes` bigint unsigned DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `archive_rows` ADD CONSTRAINT `archive_rows_archive_id_archives_id_fk` FOREIGN KEY (`archive_id`) REFERENCES `archives`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `archive_rows_taken` ON `archive_rows` (`taken_at`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_items` ON `archive_rows` (`items`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_bytes` ON `archive_rows` (`bytes`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_stored` ON `archive_rows` (`stored_bytes`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_device` ON `archive_rows` (`device_name`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_serial` ON `archive_rows` (`serial`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_customer` ON `archive_rows` (`customer_name`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_ticket` ON `archive_rows` (`ticket_number`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_rack` ON `archive_rows` (`rack_name`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_proof` ON `archive_rows` (`proof`,`archive_id`);--> statement-breakpoint
CREATE INDEX `archive_rows_proof_stored` ON `archive_rows` (`proof`,`stored_bytes`);--> statement-breakpoint
CREATE INDEX `archive_rows_search` ON `archive_rows` (`taken_at`,`search`);--> statement-breakpoint
CREATE INDEX `archives_device_created` ON `archives` (`device_id`,`created_at`);--> statement-breakpoint
CREATE INDEX `backups_archive_taken` ON `backups` (`archive_id`,`taken_at`);--> statement-breakpoint
CREATE INDEX `backups_ticket_taken` ON `backups` (`ticket_id`,`taken_at`);--> statement-breakpoint
CREATE INDEX `backups_operation` ON `backups` (`operation_id`);--> statement-breakpoint
CREATE INDEX `copies_rack_stored` ON `copies` (`rack_id`,`stored_bytes`);--> statement-breakpoint
CREATE INDEX `customers_name_search` ON `customers` (`name`,`search`);--> statement-breakpoint
CREATE INDEX `proofs_backup_sequence` ON `proofs` (`backup_id`,`sequence`);--> statement-breakpoint
CREATE INDEX `tickets_closed_opened` ON `tickets` (`closed_at`,`opened_at`);--> statement-breakpoint
CREATE INDEX `tickets_device_opened` ON `tickets` (`device_id`,`opened_at`);--> statement-breakpoint
UPDATE `customers` SET `search` = LOWER(CONCAT(`name`, ' ', `phone`, ' ', `email`));--> statement-breakpoint
UPDATE `racks` SET `archives` = (SELECT COUNT(*) FROM `copies` WHERE `copies`.`rack_id` = `racks`.`id`), `stored_bytes` = (SELECT COALESCE(SUM(`stored_bytes`), 0) FROM `copies` WHERE `copies`.`rack_id` = `racks`.`id`);
