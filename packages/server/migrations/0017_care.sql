CREATE TABLE `looks` (
	`id` char(36) NOT NULL,
	`copy_id` char(36) NOT NULL,
	`rack_id` char(36) NOT NULL,
	`operation_id` char(36) NOT NULL,
	`at` datetime(3) NOT NULL,
	`by` char(36) NOT NULL,
	`level` varchar(20) NOT NULL,
	`outcome` varchar(20) NOT NULL,
	`read_bytes` bigint unsigned NOT NULL,
	`duration_ms` int NOT NULL,
	`what` varchar(400) NOT NULL,
	CONSTRAINT `looks_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `archive_rows` ADD `good_copies` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `archive_rows` ADD `off_premises` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `archive_rows` ADD `older_copies` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `off_premises` boolean DEFAULT false NOT NULL;--> statement-breakpoint
UPDATE `archive_rows` SET `good_copies` = (SELECT count(*) FROM `copies` `c` WHERE `c`.`archive_id` = `archive_rows`.`archive_id` AND `c`.`state` <> 'damaged' AND `c`.`generation` = (SELECT max(`g`.`generation`) FROM `copies` `g` WHERE `g`.`archive_id` = `archive_rows`.`archive_id`));--> statement-breakpoint
ALTER TABLE `looks` ADD CONSTRAINT `looks_copy_id_copies_id_fk` FOREIGN KEY (`copy_id`) REFERENCES `copies`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `looks` ADD CONSTRAINT `looks_rack_id_racks_id_fk` FOREIGN KEY (`rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `looks` ADD CONSTRAINT `looks_by_technicians_id_fk` FOREIGN KEY (`by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `looks_rack_at` ON `looks` (`rack_id`,`at`);--> statement-breakpoint
CREATE INDEX `looks_copy_at` ON `looks` (`copy_id`,`at`);--> statement-breakpoint
CREATE INDEX `archive_rows_owed` ON `archive_rows` (`good_copies`,`off_premises`,`older_copies`);--> statement-breakpoint
CREATE INDEX `copies_checked` ON `copies` (`checked_at`,`rack_id`);