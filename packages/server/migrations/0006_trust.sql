CREATE TABLE `copy_changes` (
	`copy_id` char(36) NOT NULL,
	`change` longtext NOT NULL,
	CONSTRAINT `copy_changes_copy_id` PRIMARY KEY(`copy_id`)
);
--> statement-breakpoint
CREATE TABLE `operation_locks` (
	`operation_id` char(36) NOT NULL,
	`resource` varchar(90) NOT NULL,
	CONSTRAINT `operation_locks_operation_id_resource_pk` PRIMARY KEY(`operation_id`,`resource`),
	CONSTRAINT `operation_locks_resource_unique` UNIQUE(`resource`)
);
--> statement-breakpoint
ALTER TABLE `operations` DROP INDEX `operations_holds`;--> statement-breakpoint
ALTER TABLE `backups` ADD `list_digest` varchar(128) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `copies` ADD `generation` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `copies` ADD `digest` varchar(128) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `proofs` ADD `copy_id` char(36);--> statement-breakpoint
ALTER TABLE `proofs` ADD `generation` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `copy_changes` ADD CONSTRAINT `copy_changes_copy_id_copies_id_fk` FOREIGN KEY (`copy_id`) REFERENCES `copies`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `operation_locks` ADD CONSTRAINT `operation_locks_operation_id_operations_id_fk` FOREIGN KEY (`operation_id`) REFERENCES `operations`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `proofs` ADD CONSTRAINT `proofs_copy_id_copies_id_fk` FOREIGN KEY (`copy_id`) REFERENCES `copies`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `operations` DROP COLUMN `holds`;