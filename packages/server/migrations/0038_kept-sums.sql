CREATE TABLE `archive_sums` (
	`proof` varchar(10) NOT NULL,
	`archives` int NOT NULL,
	`stored_bytes` bigint unsigned NOT NULL,
	CONSTRAINT `archive_sums_proof` PRIMARY KEY(`proof`)
);
--> statement-breakpoint
DROP INDEX `archive_rows_proof_stored` ON `archive_rows`;--> statement-breakpoint
ALTER TABLE `archives` ADD `version` int DEFAULT 0 NOT NULL;--> statement-breakpoint
INSERT INTO `archive_sums` (`proof`, `archives`, `stored_bytes`) VALUES ('damaged', 0, 0), ('proven', 0, 0), ('unproven', 0, 0);
