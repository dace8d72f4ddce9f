-- What was found before copies were told apart was found of the only one there was.
UPDATE `proofs` p JOIN `backups` b ON b.`id` = p.`backup_id` JOIN `copies` c ON c.`archive_id` = b.`archive_id` SET p.`copy_id` = c.`id` WHERE p.`copy_id` IS NULL;--> statement-breakpoint
ALTER TABLE `proofs` MODIFY COLUMN `copy_id` char(36) NOT NULL;--> statement-breakpoint
ALTER TABLE `copies` ADD `state` varchar(20) DEFAULT 'unknown' NOT NULL;--> statement-breakpoint
ALTER TABLE `copies` ADD `checked_at` datetime(3);--> statement-breakpoint
ALTER TABLE `copies` ADD `checked_level` varchar(20);--> statement-breakpoint
-- The last look at a copy, if it was at the state that it still has.
UPDATE `copies` c JOIN `proofs` p ON p.`copy_id` = c.`id` AND p.`generation` = c.`generation` AND p.`sequence` = (SELECT MAX(q.`sequence`) FROM `proofs` q WHERE q.`copy_id` = c.`id`) SET c.`state` = IF(EXISTS (SELECT 1 FROM `proofs` r WHERE r.`operation_id` = p.`operation_id` AND r.`outcome` = 'damaged'), 'damaged', 'whole'), c.`checked_at` = p.`at`, c.`checked_level` = p.`level`;--> statement-breakpoint
ALTER TABLE `racks` ADD `address` longtext NOT NULL DEFAULT '';--> statement-breakpoint
UPDATE `racks` SET `address` = JSON_OBJECT('version', 1, 'value', JSON_OBJECT('kind', 'folder', 'path', `path`));--> statement-breakpoint
ALTER TABLE `racks` MODIFY COLUMN `address` longtext NOT NULL;--> statement-breakpoint
ALTER TABLE `racks` DROP COLUMN `path`;
