CREATE TRIGGER `audit_no_update` BEFORE UPDATE ON `audit` FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'audit rows are never changed';
--> statement-breakpoint
CREATE TRIGGER `audit_no_delete` BEFORE DELETE ON `audit` FOR EACH ROW SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'audit rows are never removed';
