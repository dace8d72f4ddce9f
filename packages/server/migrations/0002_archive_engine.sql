ALTER TABLE `backups` ADD `ticket_id` char(36);--> statement-breakpoint
ALTER TABLE `backups` ADD `new_items` int NOT NULL;--> statement-breakpoint
ALTER TABLE `backups` ADD `new_bytes` bigint unsigned NOT NULL;--> statement-breakpoint
ALTER TABLE `proofs` ADD `level` varchar(20) NOT NULL;--> statement-breakpoint
ALTER TABLE `backups` ADD CONSTRAINT `backups_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
UPDATE `backups` JOIN `archives` ON `archives`.`id` = `backups`.`archive_id` SET `backups`.`ticket_id` = `archives`.`ticket_id`, `backups`.`new_items` = `backups`.`items`, `backups`.`new_bytes` = `backups`.`bytes`;--> statement-breakpoint
UPDATE `proofs` SET `level` = 'full';
