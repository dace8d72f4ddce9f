CREATE TABLE `look_ins` (
	`id` char(36) NOT NULL,
	`archive_id` char(36) NOT NULL,
	`backup_id` char(36) NOT NULL,
	`ticket_id` char(36) NOT NULL,
	`technician_id` char(36) NOT NULL,
	`reason` varchar(200) NOT NULL,
	`opened_at` datetime(3) NOT NULL,
	`ended_at` datetime(3),
	`ending` varchar(20),
	`shown` int NOT NULL DEFAULT 0,
	`opened` int NOT NULL DEFAULT 0,
	CONSTRAINT `look_ins_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `look_ins` ADD CONSTRAINT `look_ins_archive_id_archives_id_fk` FOREIGN KEY (`archive_id`) REFERENCES `archives`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `look_ins` ADD CONSTRAINT `look_ins_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `look_ins` ADD CONSTRAINT `look_ins_technician_id_technicians_id_fk` FOREIGN KEY (`technician_id`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `look_ins_ended` ON `look_ins` (`ended_at`);--> statement-breakpoint
CREATE INDEX `look_ins_ticket` ON `look_ins` (`ticket_id`);