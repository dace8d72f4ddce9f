CREATE TABLE `outbox` (
	`id` bigint unsigned AUTO_INCREMENT NOT NULL,
	`at` datetime(3) NOT NULL,
	`subject` varchar(20) NOT NULL,
	`ref` varchar(64) NOT NULL,
	CONSTRAINT `outbox_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `outbox_at` ON `outbox` (`at`);--> statement-breakpoint
CREATE INDEX `operation_locks_operation` ON `operation_locks` (`operation_id`);--> statement-breakpoint
ALTER TABLE `operation_locks` DROP INDEX `operation_locks_resource_unique`;--> statement-breakpoint
ALTER TABLE `operation_locks` DROP PRIMARY KEY, ADD PRIMARY KEY(`resource`,`operation_id`);--> statement-breakpoint
ALTER TABLE `operation_locks` ADD `mode` varchar(10) NOT NULL DEFAULT 'exclusive';--> statement-breakpoint
ALTER TABLE `operation_locks` ALTER COLUMN `mode` DROP DEFAULT;--> statement-breakpoint
CREATE INDEX `operations_device` ON `operations` (`device_id`,`kind`);--> statement-breakpoint
CREATE INDEX `operations_started` ON `operations` (`started_at`);--> statement-breakpoint
CREATE INDEX `operations_state_ended` ON `operations` (`state`,`ended_at`);--> statement-breakpoint
CREATE INDEX `operations_ticket_started` ON `operations` (`ticket_id`,`started_at`);--> statement-breakpoint
DROP INDEX `operations_state` ON `operations`;--> statement-breakpoint
DROP INDEX `operations_ticket` ON `operations`;--> statement-breakpoint
ALTER TABLE `operations` ADD `deadline` datetime(3), ADD `retryable` int DEFAULT 0 NOT NULL;--> statement-breakpoint
-- A state is one value.
UPDATE `operations` SET `state` = IF(`stopping`, 'stopping', IF(`paused`, 'paused', 'running')) WHERE `state` = 'running';--> statement-breakpoint
ALTER TABLE `operations` DROP COLUMN `stopping`, DROP COLUMN `paused`;--> statement-breakpoint
-- Where a thing is: its rack, and its name there; a path is right for as long as a drive is mounted just there.
UPDATE `operations` SET `input` = JSON_REMOVE(JSON_SET(`input`, '$.folder', JSON_VALUE(`input`, '$.folderName'), '$.continued', JSON_EXTRACT(IF(JSON_VALUE(`input`, '$.continued') = '1', 'true', 'false'), '$')), '$.folderName') WHERE `kind` = 'backup';--> statement-breakpoint
UPDATE `operations` `o` JOIN `racks` `r` ON JSON_VALUE(`o`.`input`, '$.recovered') LIKE CONCAT(`r`.`path`, '/incoming/%') SET `o`.`input` = JSON_SET(`o`.`input`, '$.recovered', JSON_OBJECT('rackId', `r`.`id`, 'name', SUBSTRING(JSON_VALUE(`o`.`input`, '$.recovered'), CHAR_LENGTH(`r`.`path`) + CHAR_LENGTH('/incoming/') + 1))) WHERE `o`.`kind` = 'backup';--> statement-breakpoint
UPDATE `operations` `o` JOIN `racks` `r` ON JSON_VALUE(`o`.`input`, '$.to') LIKE CONCAT(`r`.`path`, '/packages/%') SET `o`.`input` = JSON_SET(`o`.`input`, '$.to', JSON_OBJECT('rackId', `r`.`id`, 'name', SUBSTRING_INDEX(JSON_VALUE(`o`.`input`, '$.to'), '/', -1))) WHERE `o`.`kind` = 'export';--> statement-breakpoint
UPDATE `operations` `o` JOIN `racks` `r` ON JSON_VALUE(`o`.`input`, '$.from') LIKE CONCAT(`r`.`path`, '/packages/%') SET `o`.`input` = JSON_SET(`o`.`input`, '$.from', JSON_OBJECT('rackId', `r`.`id`, 'name', SUBSTRING_INDEX(JSON_VALUE(`o`.`input`, '$.from'), '/', -1))) WHERE `o`.`kind` = 'import';--> statement-breakpoint
UPDATE `operations` SET `input` = JSON_REMOVE(JSON_SET(`input`, '$.rackId', JSON_VALUE(`input`, '$.rack.id'), '$.ticket', SUBSTRING_INDEX(JSON_VALUE(`input`, '$.folder'), '/', -1)), '$.rack', '$.folder') WHERE `kind` = 'extract';--> statement-breakpoint
UPDATE `operations` SET `result` = JSON_REMOVE(JSON_SET(`result`, '$.packageBytes', JSON_EXTRACT(`result`, '$.storedBytes')), '$.storedBytes') WHERE `kind` = 'export' AND `result` <> 'null';--> statement-breakpoint
UPDATE `operations` SET `result` = JSON_SET(`result`, '$.workedMs', NULL) WHERE `kind` = 'backup' AND `result` <> 'null' AND NOT JSON_EXISTS(`result`, '$.workedMs');--> statement-breakpoint
-- What is kept as JSON says its version, and is parsed on the way out.
UPDATE `operations` SET `input` = JSON_OBJECT('version', 1, 'value', JSON_REMOVE(JSON_EXTRACT(`input`, '$'), '$.kind'));--> statement-breakpoint
UPDATE `operations` SET `result` = JSON_OBJECT('version', 1, 'value', JSON_EXTRACT(`result`, '$')) WHERE `result` IS NOT NULL AND `result` <> 'null';--> statement-breakpoint
UPDATE `copy_changes` SET `change` = JSON_OBJECT('version', 1, 'value', JSON_EXTRACT(`change`, '$'));--> statement-breakpoint
-- What failed and can be tried again.
UPDATE `operations` `o` SET `retryable` = COALESCE((SELECT SUM(`f`.`count`) FROM JSON_TABLE(`o`.`result`, '$.value.failed[*]' COLUMNS (`count` int PATH '$.count')) `f`), 0) WHERE `kind` = 'backup' AND `state` = 'done' AND NOT JSON_EXISTS(`input`, '$.value.recovered');
