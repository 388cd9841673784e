<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Work\Worker;

/** Long files, taken over through the page and the worker. A slice is 50 records in the tests, 10 of those posted one by one. */
abstract class LotCase extends ScreenCase
{
    /** @return int the stored file's id, once its check is through and it is to be taken over */
    protected function taken(string $csv, string $kind = 'vendor-invoices'): int
    {
        $this->post(
            '/TEST/import',
            '/TEST/import/check',
            ['kind' => $kind],
            ['file' => self::upload($csv, 'june.csv')],
        );
        $file = (int) $this->db()->fetchOne('SELECT MAX(subject_id) FROM job');
        self::assertTrue(self::get(Worker::class)->next());
        $this->post('/TEST/import', '/TEST/import/take', ['kind' => $kind, 'file' => $file]);

        return $file;
    }

    protected function lotId(): int
    {
        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM posting_lot');
    }

    /** @return array{int, string} how many are posted, and how it stands */
    protected function lot(): array
    {
        $row = $this->db()->fetchAssociative('SELECT posted, state FROM posting_lot ORDER BY id DESC LIMIT 1');

        return false === $row ? [-1, 'none'] : [(int) $row['posted'], (string) $row['state']];
    }
}
