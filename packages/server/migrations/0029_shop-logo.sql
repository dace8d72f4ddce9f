CREATE TABLE `shop_logo` (
	`id` tinyint NOT NULL,
	`png` mediumtext NOT NULL,
	CONSTRAINT `shop_logo_id` PRIMARY KEY(`id`)
);
