CREATE TABLE `sync_snapshots` (
	`id` char(36) NOT NULL,
	`serial` varchar(200) NOT NULL,
	`partner` char(64) NOT NULL,
	`sealed` longtext NOT NULL,
	`taken_at` datetime(3) NOT NULL,
	CONSTRAINT `sync_snapshots_id` PRIMARY KEY(`id`),
	CONSTRAINT `sync_snapshots_what` UNIQUE(`serial`,`partner`)
);
