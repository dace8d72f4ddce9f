CREATE TABLE `agreements` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`ticket_id` char(36) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`given` boolean NOT NULL,
	`days` int,
	`by` char(36) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `agreements_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `plans` (
	`id` char(36) NOT NULL,
	`name` varchar(60) NOT NULL,
	`family` varchar(40) NOT NULL,
	`device_id` char(36),
	`reason` varchar(20),
	`technician_id` char(36) NOT NULL,
	`mode` varchar(20) NOT NULL,
	`choice` longtext NOT NULL,
	`encrypted` boolean NOT NULL,
	`used_at` datetime(3) NOT NULL,
	CONSTRAINT `plans_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `settings` (
	`name` varchar(40) NOT NULL,
	`value` longtext NOT NULL,
	CONSTRAINT `settings_name` PRIMARY KEY(`name`)
);
--> statement-breakpoint
CREATE TABLE `ticket_steps` (
	`ticket_id` char(36) NOT NULL,
	`step` varchar(20) NOT NULL,
	`state` varchar(10) NOT NULL,
	`reason` varchar(300) NOT NULL,
	`by` char(36) NOT NULL,
	`at` datetime(3) NOT NULL,
	CONSTRAINT `ticket_steps_ticket_id_step_pk` PRIMARY KEY(`ticket_id`,`step`)
);
--> statement-breakpoint
ALTER TABLE `archives` ADD `encrypted` boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE `archives` ADD `escrow` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `backups` ADD `scope` longtext NOT NULL;--> statement-breakpoint
ALTER TABLE `backups` ADD `coverage` longtext NOT NULL;--> statement-breakpoint
ALTER TABLE `devices` ADD `read_from` varchar(10) DEFAULT 'cable' NOT NULL;--> statement-breakpoint
ALTER TABLE `operations` ADD `paused` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `operations` ADD `estimate` longtext;--> statement-breakpoint
ALTER TABLE `agreements` ADD CONSTRAINT `agreements_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `agreements` ADD CONSTRAINT `agreements_by_technicians_id_fk` FOREIGN KEY (`by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `plans` ADD CONSTRAINT `plans_device_id_devices_id_fk` FOREIGN KEY (`device_id`) REFERENCES `devices`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `plans` ADD CONSTRAINT `plans_technician_id_technicians_id_fk` FOREIGN KEY (`technician_id`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `ticket_steps` ADD CONSTRAINT `ticket_steps_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `ticket_steps` ADD CONSTRAINT `ticket_steps_by_technicians_id_fk` FOREIGN KEY (`by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `agreements_ticket` ON `agreements` (`ticket_id`);--> statement-breakpoint
INSERT INTO `agreements` (`ticket_id`, `kind`, `given`, `days`, `by`, `at`) SELECT `id`, 'backup', `agreed_backup`, NULL, `opened_by`, `opened_at` FROM `tickets`;--> statement-breakpoint
INSERT INTO `agreements` (`ticket_id`, `kind`, `given`, `days`, `by`, `at`) SELECT `id`, 'keep', `keep_days` > 0, NULLIF(`keep_days`, 0), `opened_by`, `opened_at` FROM `tickets`;--> statement-breakpoint
UPDATE `backups` SET `scope` = '{"mode":"everything","encrypted":true,"everything":true}', `coverage` = '[]';--> statement-breakpoint
UPDATE `operations` SET `input` = JSON_SET(`input`, '$.choice', JSON_EXTRACT('{"contacts":true,"calendar":true,"messages":true,"calls":true,"notes":true,"photographs":true,"videos":true,"music":true,"voice-notes":true,"documents":true,"health":true,"saved-passwords":true,"settings":true,"web-history":true,"alarms":true,"applications":true}', '$'), '$.scope', JSON_EXTRACT('{"mode":"everything","encrypted":true,"everything":true}', '$'), '$.coverage', JSON_ARRAY()) WHERE `kind` = 'backup';--> statement-breakpoint
ALTER TABLE `tickets` DROP COLUMN `agreed_backup`;--> statement-breakpoint
ALTER TABLE `tickets` DROP COLUMN `keep_days`;