DELETE FROM `sessions`;--> statement-breakpoint
CREATE TABLE `passkeys` (
	`id` char(36) NOT NULL,
	`technician_id` char(36) NOT NULL,
	`credential_hash` char(64) NOT NULL,
	`credential_id` text NOT NULL,
	`public_key` text NOT NULL,
	`counter` bigint unsigned NOT NULL,
	`name` varchar(60) NOT NULL,
	`created_at` datetime(3) NOT NULL,
	`used_at` datetime(3),
	CONSTRAINT `passkeys_id` PRIMARY KEY(`id`),
	CONSTRAINT `passkeys_credential_hash_unique` UNIQUE(`credential_hash`)
);
--> statement-breakpoint
CREATE TABLE `trusted_computers` (
	`token_hash` char(64) NOT NULL,
	`expires_at` datetime(3) NOT NULL,
	CONSTRAINT `trusted_computers_token_hash` PRIMARY KEY(`token_hash`)
);
--> statement-breakpoint
ALTER TABLE `sessions` ADD `id` char(36) NOT NULL;--> statement-breakpoint
ALTER TABLE `sessions` ADD `address` varchar(64) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `sessions` ADD `browser` varchar(160) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `sessions` ADD `locked_at` datetime(3);--> statement-breakpoint
ALTER TABLE `technicians` ADD `totp_secret` varchar(300);--> statement-breakpoint
ALTER TABLE `technicians` ADD `totp_used` bigint unsigned DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `technicians` ADD `pin_hash` varchar(255);--> statement-breakpoint
ALTER TABLE `technicians` ADD `pin_tries` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `sessions` ADD CONSTRAINT `sessions_id_unique` UNIQUE(`id`);--> statement-breakpoint
ALTER TABLE `passkeys` ADD CONSTRAINT `passkeys_technician_id_technicians_id_fk` FOREIGN KEY (`technician_id`) REFERENCES `technicians`(`id`) ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX `passkeys_of` ON `passkeys` (`technician_id`);