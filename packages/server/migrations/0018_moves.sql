CREATE TABLE `gone_copies` (
	`id` char(36) NOT NULL,
	`archive_id` char(36) NOT NULL,
	`rack_id` char(36) NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	`generation` int NOT NULL,
	`digest` varchar(128) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`gone_at` datetime(3) NOT NULL,
	`operation_id` char(36) NOT NULL,
	CONSTRAINT `gone_copies_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `move_steps` (
	`operation_id` char(36) NOT NULL,
	`step` int NOT NULL,
	`archive_id` char(36) NOT NULL,
	`from_rack_id` char(36) NOT NULL,
	`to_rack_id` char(36) NOT NULL,
	`to_folder` varchar(255),
	`bytes` bigint unsigned NOT NULL,
	`detour` boolean NOT NULL,
	`state` varchar(10) NOT NULL,
	`why` varchar(400) NOT NULL DEFAULT '',
	CONSTRAINT `move_steps_operation_id_step_pk` PRIMARY KEY(`operation_id`,`step`)
);
--> statement-breakpoint
ALTER TABLE `looks` DROP FOREIGN KEY `looks_copy_id_copies_id_fk`;
--> statement-breakpoint
ALTER TABLE `proofs` DROP FOREIGN KEY `proofs_copy_id_copies_id_fk`;
--> statement-breakpoint
ALTER TABLE `gone_copies` ADD CONSTRAINT `gone_copies_rack_id_racks_id_fk` FOREIGN KEY (`rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `move_steps` ADD CONSTRAINT `move_steps_operation_id_operations_id_fk` FOREIGN KEY (`operation_id`) REFERENCES `operations`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `move_steps` ADD CONSTRAINT `move_steps_from_rack_id_racks_id_fk` FOREIGN KEY (`from_rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `move_steps` ADD CONSTRAINT `move_steps_to_rack_id_racks_id_fk` FOREIGN KEY (`to_rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `gone_copies_archive` ON `gone_copies` (`archive_id`);