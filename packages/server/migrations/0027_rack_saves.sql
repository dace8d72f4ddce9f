CREATE TABLE `rack_saves` (
	`rack_id` char(36) NOT NULL,
	`saved_at` datetime(3),
	`name` varchar(100),
	`bytes` bigint unsigned,
	`tried_at` datetime(3) NOT NULL,
	`problem` varchar(400),
	CONSTRAINT `rack_saves_rack_id` PRIMARY KEY(`rack_id`)
);
--> statement-breakpoint
ALTER TABLE `rack_saves` ADD CONSTRAINT `rack_saves_rack_id_racks_id_fk` FOREIGN KEY (`rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;