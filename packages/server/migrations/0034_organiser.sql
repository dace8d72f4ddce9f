CREATE TABLE `sync_states` (
	`id` char(36) NOT NULL,
	`serial` varchar(200) NOT NULL,
	`partner` char(64) NOT NULL,
	`kind` varchar(20) NOT NULL,
	`sealed` longtext NOT NULL,
	`updated_at` datetime(3) NOT NULL,
	CONSTRAINT `sync_states_id` PRIMARY KEY(`id`),
	CONSTRAINT `sync_states_what` UNIQUE(`serial`,`partner`,`kind`)
);
