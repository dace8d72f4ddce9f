CREATE TABLE `audit_head` (
	`id` int NOT NULL,
	`digest` char(64) CHARACTER SET ascii NOT NULL,
	`entries` bigint unsigned NOT NULL,
	CONSTRAINT `audit_head_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
ALTER TABLE `audit` ADD `digest` char(64) CHARACTER SET ascii NOT NULL;--> statement-breakpoint
CREATE INDEX `audit_at` ON `audit` (`at`);--> statement-breakpoint
CREATE INDEX `audit_who` ON `audit` (`technician_id`,`at`);--> statement-breakpoint
CREATE INDEX `audit_action` ON `audit` (`action`,`at`);--> statement-breakpoint
DROP TRIGGER `audit_no_update`;--> statement-breakpoint
SET @before := REPEAT('0', 64);--> statement-breakpoint
UPDATE `audit` SET `digest` = (@before := SHA2(CONCAT_WS(CHAR(10), @before, CONCAT(LEFT(DATE_FORMAT(`at`, '%Y-%m-%dT%H:%i:%s.%f'), 23), 'Z'), COALESCE(`technician_id`, ''), COALESCE(`ticket_id`, ''), `action`, `what`), 256)) ORDER BY `id`;--> statement-breakpoint
INSERT INTO `audit_head` (`id`, `digest`, `entries`) SELECT 1, @before, COUNT(*) FROM `audit`;--> statement-breakpoint
CREATE TRIGGER `audit_no_update` BEFORE UPDATE ON `audit` FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'audit rows are never changed';
