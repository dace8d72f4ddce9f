CREATE TABLE `named_adapter` (
	`id` tinyint NOT NULL,
	`address` varchar(300) NOT NULL,
	`token` text NOT NULL,
	CONSTRAINT `named_adapter_id` PRIMARY KEY(`id`)
);
