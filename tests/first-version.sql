-- Books as they lay in the schema's first version: an invoice of a vendor paid in part, one of a customer, and who entered them.
INSERT INTO company (id, code, name, base_currency, books_day, address) VALUES (1, 'OLD', 'Old Company', 'USD', NULL, '1 Quay Street');
INSERT INTO setting VALUES (1, 'date_order', 'month_day');
INSERT INTO app_user (id, username, name, password_hash) VALUES (1, 'console', 'Console', ''), (2, 'ida', 'Ida', '$2y$04$x'), (3, 'Ola', 'Ola', '');
INSERT INTO membership (user_id, company_id, role) VALUES (1, 1, 'controller'), (2, 1, 'controller'), (3, 1, 'approver');
INSERT INTO number_sequence VALUES (1, 'JE-2026', 5), (1, 'VI-2026', 2), (1, 'CI-2026', 2), (1, 'PY-2026', 2);
INSERT INTO account (id, company_id, number, name, type, role) VALUES (1, 1, '1000', 'Bank', 'asset', 'bank'),
    (2, 1, '1200', 'Receivables', 'asset', 'receivables'), (3, 1, '2100', 'Payables', 'liability', 'payables'),
    (4, 1, '4000', 'Sales', 'income', NULL), (5, 1, '5000', 'Materials', 'expense', NULL);
INSERT INTO period (company_id, year, number, first_day, last_day) VALUES (1, 2026, 6, '2026-06-01', '2026-06-30');
INSERT INTO bank_account (id, company_id, account_id, code, name, currency) VALUES (1, 1, 1, '1000', 'Bank', 'USD');
INSERT INTO check_book (bank_account_id, name, first_number, next_number) VALUES (1, 'Checks', 1001, 1001);
INSERT INTO party (id, company_id, side, code, name, method, if_late, separate_payments, payment_stop, tax_number, street, city, country,
    email, iban, bic, routing_number, account_number, bank_confirmed)
VALUES (1, 1, 'payables', 'V-1', 'Fenwick Timber', 'check', 'can_wait', 0, 'claim open', '', '', '', '', '', '', '', '', '', 1),
    (2, 1, 'receivables', 'C-1', 'Gannet Sailing School', 'check', 'can_wait', 0, NULL, '', '', '', '', '', '', '', '', '', 1);
INSERT INTO document (id, company_id, side, kind, state, number, their_number, their_key, live_key, party_id, document_date, posting_date,
    due_date, currency, rate, net, tax, total, total_base, discount_base, description, bank_account_id, bank_base, reference, method, approval,
    created_by_id, created_at, posted_at)
VALUES (1, 1, 'payables', 'invoice', 'posted', 'VI-26-00001', 'A-1', 'A1', 'A-1', 1, '2026-06-01', '2026-06-01', '2026-07-01', 'USD', 1,
        50000, 0, 50000, 50000, 50000, '', NULL, 0, '', '', 'none', 2, '2026-06-01 10:00:00', '2026-06-01 10:00:00'),
    (2, 1, 'receivables', 'invoice', 'posted', 'CI-26-00001', '', '', NULL, 2, '2026-06-02', '2026-06-02', '2026-07-02', 'USD', 1,
        70000, 0, 70000, 70000, 70000, '', NULL, 0, '', '', 'none', 2, '2026-06-02 10:00:00', '2026-06-02 10:00:00'),
    (3, 1, 'payables', 'payment', 'posted', 'PY-26-00001', '', '', NULL, 1, '2026-06-03', '2026-06-03', '2026-06-03', 'USD', 1,
        20000, 0, 20000, 20000, 0, '', 1, 20000, 'T-1', 'wire', 'none', 2, '2026-06-03 10:00:00', '2026-06-03 10:00:00');
INSERT INTO document_line (document_id, position, account_id, amount, net, text) VALUES (1, 1, 5, 50000, 50000, 'oak'), (2, 1, 4, 70000, 70000, '');
INSERT INTO open_item (id, company_id, side, party_id, document_id, part, kind, number, account_id, currency, original, original_base, open,
    open_base, discount_base, grace_days, document_date, posting_date, due_date, last_moved_on)
VALUES (1, 1, 'payables', 1, 1, 1, 'invoice', 'VI-26-00001', 3, 'USD', 50000, 50000, 30000, 30000, 50000, 0, '2026-06-01', '2026-06-01',
        '2026-07-01', '2026-06-03'),
    (2, 1, 'receivables', 2, 2, 1, 'invoice', 'CI-26-00001', 2, 'USD', 70000, 70000, 70000, 70000, 70000, 0, '2026-06-02', '2026-06-02',
        '2026-07-02', '2026-06-02'),
    (3, 1, 'payables', 1, 3, 1, 'payment', 'PY-26-00001', 3, 'USD', -20000, -20000, 0, 0, 0, 0, '2026-06-03', '2026-06-03', '2026-06-03',
        '2026-06-03');
INSERT INTO settlement (id, company_id, side, party_id, currency, settled_on, rate, document_id, exchange, created_by_id, created_at)
VALUES (1, 1, 'payables', 1, 'USD', '2026-06-03', 1, 3, 0, 2, '2026-06-03 10:00:00');
INSERT INTO settlement_line (settlement_id, item_id, applied, applied_base) VALUES (1, 1, 20000, 20000), (1, 3, -20000, -20000);
INSERT INTO journal_entry (id, company_id, number, year, sequence, posting_date, currency, text, document_id, bypass, created_by_id, created_at)
VALUES (1, 1, 'JE-26-00001', 2026, 1, '2026-06-01', 'USD', 'VI-26-00001', 1, 0, 2, '2026-06-01 10:00:00'),
    (2, 1, 'JE-26-00002', 2026, 2, '2026-06-02', 'USD', 'CI-26-00001', 2, 0, 2, '2026-06-02 10:00:00'),
    (3, 1, 'JE-26-00003', 2026, 3, '2026-06-03', 'USD', 'PY-26-00001', 3, 0, 2, '2026-06-03 10:00:00'),
    (4, 1, 'JE-26-00004', 2026, 4, '2026-06-04', 'USD', 'by hand', NULL, 0, 2, '2026-06-04 10:00:00');
INSERT INTO journal_line (entry_id, position, account_id, posting_date, base, amount, text, party_id)
VALUES (1, 1, 5, '2026-06-01', 50000, 50000, 'oak', NULL), (1, 2, 3, '2026-06-01', -50000, -50000, '', 1),
    (2, 1, 2, '2026-06-02', 70000, 70000, '', 2), (2, 2, 4, '2026-06-02', -70000, -70000, '', NULL),
    (3, 1, 3, '2026-06-03', 20000, 20000, '', 1), (3, 2, 1, '2026-06-03', -20000, -20000, '', NULL),
    (4, 1, 1, '2026-06-04', 500, 500, '', NULL), (4, 2, 4, '2026-06-04', -500, -500, '', NULL);
INSERT INTO history (company_id, subject, subject_id, action, detail, user_id, happened_at)
VALUES (1, 'document', 1, 'posted', '500.00', 2, '2026-06-01 10:00:00');
