CREATE TABLE `rack_days` (
	`rack_id` char(36) NOT NULL,
	`day` int NOT NULL,
	`free` bigint unsigned NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	CONSTRAINT `rack_days_rack_id_day_pk` PRIMARY KEY(`rack_id`,`day`)
);
--> statement-breakpoint
ALTER TABLE `racks` ADD `kind` varchar(20) DEFAULT 'fixed' NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `number` int AUTO_INCREMENT NOT NULL, ADD CONSTRAINT `racks_number_unique` UNIQUE(`number`);--> statement-breakpoint
ALTER TABLE `racks` ADD `note` varchar(120) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` ADD `retired_at` datetime(3);--> statement-breakpoint
ALTER TABLE `rack_days` ADD CONSTRAINT `rack_days_rack_id_racks_id_fk` FOREIGN KEY (`rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;