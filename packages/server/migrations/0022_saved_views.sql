CREATE TABLE `saved_views` (
	`id` char(36) NOT NULL,
	`technician_id` char(36) NOT NULL,
	`name` varchar(60) NOT NULL,
	`find` varchar(200) NOT NULL,
	`sort` varchar(20) NOT NULL,
	`order` varchar(4) NOT NULL,
	CONSTRAINT `saved_views_id` PRIMARY KEY(`id`),
	CONSTRAINT `saved_views_name` UNIQUE(`technician_id`,`name`)
);
--> statement-breakpoint
ALTER TABLE `saved_views` ADD CONSTRAINT `saved_views_technician_id_technicians_id_fk` FOREIGN KEY (`technician_id`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `gone_copies` DROP COLUMN `generation`;