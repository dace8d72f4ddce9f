ALTER TABLE `backups` ADD `pruned_in` int;
--> statement-breakpoint
-- Made anew at the next start: with when each is due, who holds it, and what was noted at intake.
DELETE FROM `archive_rows`;
