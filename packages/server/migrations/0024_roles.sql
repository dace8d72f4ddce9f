ALTER TABLE `technicians` ADD `role` varchar(20) DEFAULT 'keeper' NOT NULL;--> statement-breakpoint
ALTER TABLE `technicians` ADD `left_at` datetime(3);