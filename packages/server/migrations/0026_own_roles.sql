CREATE TABLE `roles` (
	`id` char(36) NOT NULL,
	`name` varchar(60) NOT NULL,
	`permissions` longtext NOT NULL,
	CONSTRAINT `roles_id` PRIMARY KEY(`id`),
	CONSTRAINT `roles_name` UNIQUE(`name`)
);
--> statement-breakpoint
ALTER TABLE `technicians` MODIFY COLUMN `role` varchar(36) NOT NULL DEFAULT 'keeper';