DROP INDEX `operations_state_ended` ON `operations`;--> statement-breakpoint
CREATE INDEX `operations_state_ended` ON `operations` (`state`,`ended_at`,`kind`);