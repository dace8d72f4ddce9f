CREATE TABLE `schedules` (
	`id` char(36) NOT NULL,
	`ticket_id` char(36) NOT NULL,
	`schedule` longtext NOT NULL,
	`created_by` char(36) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `schedules_id` PRIMARY KEY(`id`),
	CONSTRAINT `schedules_ticket_id_unique` UNIQUE(`ticket_id`)
);
--> statement-breakpoint
ALTER TABLE `schedules` ADD CONSTRAINT `schedules_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `schedules` ADD CONSTRAINT `schedules_created_by_technicians_id_fk` FOREIGN KEY (`created_by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;