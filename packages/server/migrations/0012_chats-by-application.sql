ALTER TABLE `schedules` MODIFY COLUMN `takes` varchar(90) NOT NULL;--> statement-breakpoint
-- Chats are named by the application that keeps them.
UPDATE `schedules` SET `takes` = CONCAT('chats/', `takes`), `extract` = JSON_SET(`extract`, '$.what.set', CONCAT('chats/', JSON_VALUE(`extract`, '$.what.set'))) WHERE `takes` IN ('tansy', 'corbel');--> statement-breakpoint
UPDATE `operations` SET `input` = JSON_SET(`input`, '$.value.what.set', CONCAT('chats/', JSON_VALUE(`input`, '$.value.what.set'))) WHERE `kind` = 'extract' AND JSON_VALUE(`input`, '$.value.what.set') IN ('tansy', 'corbel');--> statement-breakpoint
UPDATE `operations` SET `input` = JSON_SET(`input`, '$.version', 2), `result` = IF(JSON_VALUE(`result`, '$.version') = 1, JSON_SET(`result`, '$.version', 2), `result`) WHERE `kind` = 'extract';
