<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Formats\Xlsx;
use Nelbix\Core\Formats\XlsxReader;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * A list of open items that a customer marked and sent back, as CSV or as a workbook: what stands in the column "pay" is paid, all of it
 * where it is a mark, so much where it is an amount.
 */
final readonly class MarkedList
{
    private const MOST_BYTES = 8_000_000;

    /** What people put into a box: it means all of it. */
    private const MARKS = ['x', 'yes', 'y', 'ok', 'pay', 'paid', 'all', '✓', '✔', '1'];

    public function __construct(private Connection $db)
    {
    }

    /**
     * @return array{party: string, marked: array<int, int>} the customer's code, and by item 0 for all of it, else what is paid of it,
     *                                                       minor units of its currency
     *
     * @throws Refused naming each row that cannot be read, or marks what is not open
     */
    public function read(Actor $actor, string $bytes): array
    {
        $rows = $this->rows($bytes);
        $wanted = array_filter($rows, static fn (array $r): bool => '' !== $r['pay']);
        if ([] === $wanted) {
            throw Refused::because(
                'list',
                'Nothing is marked in the column “pay”; mark what is paid, or type amounts there.',
            );
        }
        $items = $this->items($actor, array_values(array_unique(array_column($wanted, 'number'))));
        $marked = $parties = $problems = [];
        foreach ($wanted as $line => $row) {
            $item = $items[mb_strtoupper($row['number'])] ?? null;
            if (null === $item) {
                $problems[] = new Problem(
                    'list',
                    \sprintf(
                        'Line %d: nothing with the number “%s” is open.',
                        $line,
                        mb_strimwidth($row['number'], 0, 40, '…'),
                    ),
                    kind: ProblemKind::Unknown,
                );
                continue;
            }
            try {
                $marked[(int) $item['id']] = self::amount($row['pay'], $item, $line);
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            }
            $parties[(string) $item['code']] = true;
        }
        if (\count($parties) > 1) {
            $problems[] = new Problem(
                'list',
                \sprintf(
                    'The list names items of %s; one list is of one customer.',
                    implode(' and ', array_keys($parties)),
                ),
            );
        }
        if ([] !== $problems) {
            throw Refused::all(\array_slice($problems, 0, 20));
        }

        return ['party' => (string) array_key_first($parties), 'marked' => $marked];
    }

    /**
     * @param array<string, mixed> $item
     *
     * @return int 0 for all of it
     *
     * @throws Refused
     */
    private static function amount(string $pay, array $item, int $line): int
    {
        if (\in_array(mb_strtolower($pay), self::MARKS, true)) {
            return 0;
        }
        try {
            $minor = abs(
                Money::parse(str_replace(',', '', $pay), Currency::of((string) $item['currency']), 'list')->minor,
            );
        } catch (Refused) {
            $minor = 0;
        }
        if (0 === $minor || $minor > abs((int) $item['open'])) {
            throw Refused::because(
                'list',
                \sprintf(
                    'Line %d: “%s” is neither a mark nor an amount of at most %s, which is open of %s.',
                    $line,
                    mb_strimwidth($pay, 0, 30, '…'),
                    Money::of(abs((int) $item['open']), (string) $item['currency'])->decimal(),
                    $item['number'],
                ),
            );
        }

        return $minor === abs((int) $item['open']) ? 0 : $minor;
    }

    /**
     * @return array<int, array{number: string, pay: string}> by line
     *
     * @throws Refused
     */
    private function rows(string $bytes): array
    {
        if (\strlen($bytes) > self::MOST_BYTES) {
            throw Refused::because('list', 'The file is too big for a list of open items.', ProblemKind::TooMuch);
        }
        if (!str_starts_with($bytes, "PK\x03\x04")) {
            $rows = [];
            foreach (Csv::read($bytes, ['number', 'pay'], ['document_date', 'due_date', 'currency', 'open']) as $r) {
                $rows[$r['line']] = ['number' => trim($r['row']['number']), 'pay' => trim($r['row']['pay'])];
            }

            return $rows;
        }
        $sheet = XlsxReader::rows(...self::parts($bytes));
        $head = array_map(static fn (string $h): string => mb_strtolower(trim($h)), $sheet[0] ?? []);
        $number = array_search('number', $head, true);
        $pay = array_search('pay', $head, true);
        if (false === $number || false === $pay) {
            throw Refused::because(
                'list',
                'The sheet has no columns “Number” and “Pay” in its first row.',
                ProblemKind::Missing,
            );
        }
        $rows = [];
        foreach (\array_slice($sheet, 1, null, true) as $k => $cells) {
            $rows[$k + 1] = ['number' => trim($cells[$number] ?? ''), 'pay' => trim($cells[$pay] ?? '')];
        }

        // under the rows of a workbook of ours stand its totals, which name no document
        return array_filter($rows, static fn (array $r): bool => '' !== $r['number']);
    }

    /** @return array{string, string} the sheet and the shared texts of a workbook; nothing that is larger than it says is unpacked */
    private static function parts(string $bytes): array
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'nelbix-list');
        file_put_contents($path, $bytes);
        try {
            $zip = new \ZipArchive();
            if (true !== $zip->open($path, \ZipArchive::RDONLY)) {
                throw Refused::because('list', 'The file is no workbook that can be opened.');
            }
            $part = static function (string $name) use ($zip): string {
                $size = $zip->statName($name)['size'] ?? 0;

                return 0 < $size && $size <= XlsxReader::MOST_BYTES
                    ? (string) $zip->getFromName($name, XlsxReader::MOST_BYTES)
                    : '';
            };
            $parts = [$part(Xlsx::SHEET), $part(XlsxReader::SHARED)];
            $zip->close();
        } finally {
            unlink($path);
        }
        if ('' === $parts[0]) {
            throw Refused::because('list', 'The workbook has no first sheet that can be read.');
        }

        return $parts;
    }

    /**
     * @param list<string> $numbers
     *
     * @return array<string, array<string, mixed>> open items of customers, by number
     */
    private function items(Actor $actor, array $numbers): array
    {
        $found = [];
        foreach (array_chunk($numbers, 500) as $chunk) {
            $rows = $this->db->iterateAssociative(
                <<<'SQL'
                SELECT i.id, i.number, i.open, i.currency, p.code
                FROM open_item i
                JOIN party p ON p.id = i.party_id AND p.nobody = 0
                WHERE i.company_id = ? AND i.side = 'receivables' AND i.open <> 0 AND i.number IN (?)
                SQL
                ,
                [$actor->companyId, $chunk],
                [1 => ArrayParameterType::STRING],
            );
            foreach ($rows as $r) {
                $found[mb_strtoupper((string) $r['number'])] = $r;
            }
        }

        return $found;
    }
}
