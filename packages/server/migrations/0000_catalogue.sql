CREATE TABLE `archives` (
	`id` char(36) NOT NULL,
	`ticket_id` char(36) NOT NULL,
	`device_id` char(36) NOT NULL,
	`password_holder` varchar(20) NOT NULL,
	`reminder` varchar(200) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `archives_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `audit` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`at` datetime(3) NOT NULL,
	`technician_id` char(36),
	`ticket_id` char(36),
	`action` varchar(40) NOT NULL,
	`what` varchar(400) NOT NULL,
	CONSTRAINT `audit_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `backups` (
	`id` char(36) NOT NULL,
	`archive_id` char(36) NOT NULL,
	`operation_id` char(36) NOT NULL,
	`taken_at` datetime(3) NOT NULL,
	`taken_by` char(36) NOT NULL,
	`os_version` varchar(30) NOT NULL,
	`content_revision` varchar(64) NOT NULL,
	`items` int NOT NULL,
	`bytes` bigint unsigned NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	`duration_ms` int NOT NULL,
	`digest` varchar(128) NOT NULL,
	`classes` longtext NOT NULL,
	`failed` longtext NOT NULL,
	CONSTRAINT `backups_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `copies` (
	`id` char(36) NOT NULL,
	`archive_id` char(36) NOT NULL,
	`rack_id` char(36) NOT NULL,
	`folder` varchar(255) NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `copies_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `customers` (
	`id` char(36) NOT NULL,
	`name` varchar(120) NOT NULL,
	`phone` varchar(40) NOT NULL,
	`email` varchar(254) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `customers_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `devices` (
	`id` char(36) NOT NULL,
	`serial` varchar(64) NOT NULL,
	`family` varchar(40) NOT NULL,
	`family_name` varchar(60) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`model` varchar(60) NOT NULL,
	`name` varchar(120) NOT NULL,
	`imei` varchar(20),
	`os_name` varchar(60) NOT NULL,
	`os_version` varchar(30) NOT NULL,
	`capacity` bigint unsigned NOT NULL,
	`seen_at` datetime(3) NOT NULL,
	CONSTRAINT `devices_id` PRIMARY KEY(`id`),
	CONSTRAINT `devices_serial_unique` UNIQUE(`serial`)
);
--> statement-breakpoint
CREATE TABLE `operations` (
	`id` char(36) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`state` varchar(20) NOT NULL,
	`holds` varchar(80),
	`ticket_id` char(36),
	`device_id` varchar(64),
	`device_name` varchar(120),
	`archive_id` char(36),
	`backup_id` char(36),
	`input` longtext NOT NULL,
	`phase` varchar(20) NOT NULL,
	`done_bytes` bigint unsigned NOT NULL DEFAULT 0,
	`total_bytes` bigint unsigned NOT NULL DEFAULT 0,
	`done_items` int NOT NULL DEFAULT 0,
	`total_items` int NOT NULL DEFAULT 0,
	`rate` double NOT NULL DEFAULT 0,
	`left_low_ms` double,
	`left_high_ms` double,
	`needs` varchar(300),
	`stopping` boolean NOT NULL DEFAULT false,
	`started_by` char(36) NOT NULL,
	`started_at` datetime(3) NOT NULL,
	`ended_at` datetime(3),
	`lease_owner` char(36),
	`lease_until` datetime(3),
	`result` longtext,
	`problem` longtext,
	CONSTRAINT `operations_id` PRIMARY KEY(`id`),
	CONSTRAINT `operations_holds` UNIQUE(`holds`)
);
--> statement-breakpoint
CREATE TABLE `proofs` (
	`id` char(36) NOT NULL,
	`backup_id` char(36) NOT NULL,
	`operation_id` char(36) NOT NULL,
	`at` datetime(3) NOT NULL,
	`by` char(36) NOT NULL,
	`outcome` varchar(20) NOT NULL,
	`items` int NOT NULL,
	`bytes` bigint unsigned NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	`what` varchar(400) NOT NULL,
	CONSTRAINT `proofs_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `racks` (
	`id` char(36) NOT NULL,
	`name` varchar(60) NOT NULL,
	`path` varchar(1024) NOT NULL,
	`reserve` bigint unsigned NOT NULL,
	CONSTRAINT `racks_id` PRIMARY KEY(`id`),
	CONSTRAINT `racks_name_unique` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`token_hash` varchar(64) NOT NULL,
	`technician_id` char(36) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	CONSTRAINT `sessions_token_hash` PRIMARY KEY(`token_hash`)
);
--> statement-breakpoint
CREATE TABLE `technicians` (
	`id` char(36) NOT NULL,
	`login` varchar(60) NOT NULL,
	`name` varchar(120) NOT NULL,
	`password_hash` varchar(255) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	CONSTRAINT `technicians_id` PRIMARY KEY(`id`),
	CONSTRAINT `technicians_login_unique` UNIQUE(`login`)
);
--> statement-breakpoint
CREATE TABLE `tickets` (
	`id` char(36) NOT NULL,
	`number` varchar(12) NOT NULL,
	`customer_id` char(36) NOT NULL,
	`device_id` char(36) NOT NULL,
	`reason` varchar(20) NOT NULL,
	`agreed_backup` boolean NOT NULL,
	`keep_days` int NOT NULL,
	`promised_at` datetime(3),
	`notes` text NOT NULL,
	`opened_by` char(36) NOT NULL,
	`opened_at` datetime(3) NOT NULL,
	`closed_at` datetime(3),
	CONSTRAINT `tickets_id` PRIMARY KEY(`id`),
	CONSTRAINT `tickets_number_unique` UNIQUE(`number`)
);
--> statement-breakpoint
ALTER TABLE `archives` ADD CONSTRAINT `archives_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `archives` ADD CONSTRAINT `archives_device_id_devices_id_fk` FOREIGN KEY (`device_id`) REFERENCES `devices`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `audit` ADD CONSTRAINT `audit_technician_id_technicians_id_fk` FOREIGN KEY (`technician_id`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `audit` ADD CONSTRAINT `audit_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `backups` ADD CONSTRAINT `backups_archive_id_archives_id_fk` FOREIGN KEY (`archive_id`) REFERENCES `archives`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `backups` ADD CONSTRAINT `backups_taken_by_technicians_id_fk` FOREIGN KEY (`taken_by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `copies` ADD CONSTRAINT `copies_archive_id_archives_id_fk` FOREIGN KEY (`archive_id`) REFERENCES `archives`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `copies` ADD CONSTRAINT `copies_rack_id_racks_id_fk` FOREIGN KEY (`rack_id`) REFERENCES `racks`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `operations` ADD CONSTRAINT `operations_ticket_id_tickets_id_fk` FOREIGN KEY (`ticket_id`) REFERENCES `tickets`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `operations` ADD CONSTRAINT `operations_started_by_technicians_id_fk` FOREIGN KEY (`started_by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `proofs` ADD CONSTRAINT `proofs_backup_id_backups_id_fk` FOREIGN KEY (`backup_id`) REFERENCES `backups`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `proofs` ADD CONSTRAINT `proofs_by_technicians_id_fk` FOREIGN KEY (`by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `sessions` ADD CONSTRAINT `sessions_technician_id_technicians_id_fk` FOREIGN KEY (`technician_id`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `tickets` ADD CONSTRAINT `tickets_customer_id_customers_id_fk` FOREIGN KEY (`customer_id`) REFERENCES `customers`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `tickets` ADD CONSTRAINT `tickets_device_id_devices_id_fk` FOREIGN KEY (`device_id`) REFERENCES `devices`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE `tickets` ADD CONSTRAINT `tickets_opened_by_technicians_id_fk` FOREIGN KEY (`opened_by`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `audit_ticket` ON `audit` (`ticket_id`);--> statement-breakpoint
CREATE INDEX `operations_state` ON `operations` (`state`);--> statement-breakpoint
CREATE INDEX `operations_ticket` ON `operations` (`ticket_id`);