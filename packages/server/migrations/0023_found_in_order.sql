DROP INDEX `archive_rows_search` ON `archive_rows`;--> statement-breakpoint
CREATE INDEX `operations_kind` ON `operations` (`kind`,`state`,`started_at`);--> statement-breakpoint
CREATE INDEX `archive_rows_search` ON `archive_rows` (`taken_at`,`archive_id`,`search`);