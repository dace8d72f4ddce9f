ALTER TABLE `schedules` ADD `takes` varchar(20) NOT NULL;--> statement-breakpoint
UPDATE `schedules` SET `takes` = 'backup';--> statement-breakpoint
ALTER TABLE `schedules` ADD `extract` longtext;--> statement-breakpoint
UPDATE `schedules` SET `extract` = 'null';--> statement-breakpoint
ALTER TABLE `schedules` ADD CONSTRAINT `schedules_ticket_takes` UNIQUE(`ticket_id`,`takes`);--> statement-breakpoint
ALTER TABLE `schedules` DROP INDEX `schedules_ticket_id_unique`;
