<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\SkipChecks;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Banking\VoidCheck;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Money\RequestRefund;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\ChangeLine;
use Nelbix\App\Payables\ChangePayment;
use Nelbix\App\Payables\ChangeProposal;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\Payables\TakeIn;
use Nelbix\App\Payables\TurnAround;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;

/** Weeks of a payables office in random order (seeded): each step is done or refused with a reason, and the books hold whatever comes. */
final class RandomWeeksTest extends AppCase
{
    private Day $day;

    /** @var array<string, int> how often each step was done */
    private array $done = [];

    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 6) as $seed) {
            yield 'seed '.$seed => [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function testTheBooksHoldWhateverComes(int $seed): void
    {
        mt_srand($seed);
        $this->day = Day::of(self::DAY);
        $save = self::get(SaveParty::class);
        $save->save($this->clerk, Side::Payables, [
            'code' => 'V-2',
            'name' => 'Corrie Bronze',
            'terms' => 'N30',
            'default_account' => '5000',
            'separate_payments' => 'yes',
            'withholding_percent' => '10',
        ]);
        $save->save(
            $this->clerk,
            Side::Payables,
            [
                'code' => 'V-3',
                'name' => 'Harbor Fuel',
                'terms' => '2-10-N30',
                'default_account' => '5000',
                'method' => 'transfer',
                'routing_number' => '011000015',
                'account_number' => '12345678',
            ],
            null,
            true,
        );
        $steps = [
            'invoice',
            'invoice',
            'invoice',
            'credit',
            'prepay',
            'propose',
            'propose',
            'trim',
            'trim',
            'takeIn',
            'turn',
            'decide',
            'decide',
            'decide',
            'print',
            'print',
            'print',
            'printed',
            'printed',
            'printed',
            'printed',
            'post',
            'post',
            'post',
            'post',
            'voidCheck',
            'voidPayment',
            'reverse',
            'settle',
            'undo',
            'hold',
            'refund',
            'dropProposal',
            'skip',
            'nextDay',
        ];
        for ($n = 0; $n < 400; ++$n) {
            $step = $steps[mt_rand(0, \count($steps) - 1)];
            try {
                if (false !== $this->{$step}()) {
                    $this->done[$step] = ($this->done[$step] ?? 0) + 1;
                }
            } catch (Refused $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, $this->day->plusDays(40)) as $t) {
            self::assertSame(0, $t['tie']->difference(), $t['name']);
        }
        self::assertGreaterThan(
            12,
            \count($this->done),
            'most steps could be done at least once: '.json_encode($this->done),
        );
        self::assertArrayHasKey('post', $this->done);
        // nothing is reserved by what has ended, and nothing that is open for a run is settled by another
        self::assertSame(
            0,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM open_item i JOIN proposal p ON p.id = i.reserved_by_id WHERE p.state IN ('posted', 'dropped')",
            ),
        );
    }

    private function one(string $sql): ?int
    {
        $ids = $this->db()->fetchFirstColumn($sql);

        return [] === $ids ? null : (int) $ids[mt_rand(0, \count($ids) - 1)];
    }

    private function invoice2(string $kind): int
    {
        static $n = 0;

        return parent::invoice(Side::Payables, \sprintf('%d.%02d', mt_rand(5, 3000), mt_rand(0, 99)), [
            'party' => 'V-'.mt_rand(1, 3),
            'kind' => $kind,
            'number' => 'R-'.++$n,
            'document_date' => $this->day->plusDays(-mt_rand(0, 40))->iso(),
            'lines' => [
                [
                    'account' => '5000',
                    'amount' => \sprintf('%d.%02d', mt_rand(5, 3000), mt_rand(0, 99)),
                    'tax_code' => ['', 'P8'][mt_rand(0, 1)],
                ],
            ],
        ]);
    }

    protected function invoice(Side $side = Side::Payables, string $amount = '', array $more = []): int
    {
        return '' === $amount ? $this->invoice2('invoice') : parent::invoice($side, $amount, $more);
    }

    private function credit(): void
    {
        $this->invoice2('credit_note');
    }

    private function prepay(): void
    {
        $this->money(
            Side::Payables,
            mt_rand(100, 90000),
            [],
            [],
            $this->day->iso(),
            [DocumentKind::Prepayment, DocumentKind::Payment][mt_rand(0, 1)],
        );
    }

    private function propose(): void
    {
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read(
            $this->clerk,
            $raw = [
                'pay_date' => $this->day->iso(),
                'due_through' => $this->day->plusDays(mt_rand(0, 30))->iso(),
                'method' => ['check', 'all'][mt_rand(0, 1)],
                'cash' => 0 === mt_rand(0, 2) ? (string) mt_rand(500, 9000) : '',
                'per_invoice' => 0 === mt_rand(0, 3) ? 'yes' : '',
                'at_least' => 0 === mt_rand(0, 3) ? '100' : '',
            ],
        );
        self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method, array_filter($raw));
    }

    private function proposal(string ...$states): ?int
    {
        return $this->one("SELECT id FROM proposal WHERE state IN ('".implode("','", $states)."')");
    }

    private function trim(): ?bool
    {
        $id = $this->proposal('review', 'refused');
        $item =
            null === $id ? null : $this->one("SELECT item_id FROM proposal_line WHERE proposal_id = $id AND is_in = 1");
        if (null === $id || null === $item) {
            return false;
        }
        match (mt_rand(0, 4)) {
            0 => self::get(ChangeProposal::class)->change($this->clerk, $id, [$item], true),
            1 => self::get(ChangeProposal::class)->change($this->clerk, $id, [$item], false),
            2 => self::get(ChangeLine::class)->change(
                $this->clerk,
                $id,
                $item,
                (string) mt_rand(1, 500),
                0 === mt_rand(0, 1),
                0 === mt_rand(0, 3),
            ),
            3 => self::get(ChangeLine::class)->change(
                $this->clerk,
                $id,
                $item,
                '',
                0 === mt_rand(0, 1),
                0 === mt_rand(0, 3),
            ),
            default => self::get(ChangePayment::class)->change(
                $this->clerk,
                $id,
                (int) $this->one("SELECT payment FROM proposal_payment WHERE proposal_id = $id"),
                [
                    'pay_by' => ['check', 'wire', 'file', 'hand'][mt_rand(0, 3)],
                    'reference' => (string) mt_rand(1001, 1010),
                ],
            ),
        };

        return null;
    }

    private function takeIn(): ?bool
    {
        $id = $this->proposal('review', 'refused');
        $item =
            null === $id ? null : $this->one("SELECT item_id FROM proposal_line WHERE proposal_id = $id AND is_in = 0");

        if (null === $id || null === $item) {
            return false;
        }
        self::get(TakeIn::class)->take($this->clerk, $id, [$item]);

        return null;
    }

    private function turn(): ?bool
    {
        $id = $this->proposal('review');
        $item = null === $id ? null : $this->one("SELECT item_id FROM proposal_line WHERE proposal_id = $id");

        if (null === $id || null === $item) {
            return false;
        }
        self::get(TurnAround::class)->turn($this->clerk, $id, [$item]);

        return null;
    }

    private function decide(): ?bool
    {
        $id = $this->proposal('review');

        if (null === $id) {
            return false;
        }
        self::get(DecideProposal::class)->decide($this->approver, $id, mt_rand(0, 4) > 0, 'look again');

        return null;
    }

    private function print(): ?bool
    {
        $id = $this->proposal('approved');
        $book = (int) $this->one('SELECT id FROM check_book');

        if (null === $id) {
            return false;
        }
        self::get(PrintChecks::class)->print(
            $this->clerk,
            $id,
            $book,
            (int) $this->db()->fetchOne('SELECT next_number FROM check_book WHERE id = ?', [$book]),
        );

        return null;
    }

    private function printed(): bool|int
    {
        $id = $this->proposal('printed');
        $waiting =
            null === $id
                ? []
                : array_map(
                    'intval',
                    $this->db()->fetchFirstColumn(
                        "SELECT number FROM bank_check WHERE proposal_id = $id AND state = 'reserved'",
                    ),
                );

        return null === $id
            ? false
            : self::get(PrintChecks::class)->sayWhatPrinted(
                $this->clerk,
                $id,
                0 === mt_rand(0, 2) ? \array_slice($waiting, 0, 1) : [],
                'jammed',
                0 === mt_rand(0, 2) ? \array_slice($waiting, 1) : [],
            );
    }

    private function post(): ?bool
    {
        $id = $this->proposal('approved', 'printed', 'posting');
        if (null === $id) {
            return false;
        }
        self::get(Worker::class)->finish(self::get(StartRun::class)->start($this->clerk, $id));

        return null;
    }

    private function voidCheck(): ?bool
    {
        $number = $this->one("SELECT number FROM bank_check WHERE state = 'issued'");

        if (null === $number) {
            return false;
        }
        self::get(VoidCheck::class)->void(
            $this->clerk,
            (int) $this->one('SELECT id FROM check_book'),
            $number,
            $this->day,
            'lost',
            0 === mt_rand(0, 1),
        );

        return null;
    }

    private function voidPayment(): bool|int
    {
        $id = $this->one(
            "SELECT id FROM document WHERE kind IN ('payment', 'prepayment') AND state = 'posted' AND reverses_id IS NULL",
        );

        return null === $id
            ? false
            : self::get(ReverseDocument::class)->event($this->clerk, $id, $this->day, HowTakenBack::Voided, 'returned');
    }

    private function reverse(): bool|int
    {
        $id = $this->one("SELECT id FROM document WHERE state = 'posted' AND reverses_id IS NULL");

        return null === $id ? false : self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'a mistake');
    }

    private function settle(): bool|int
    {
        $credit = $this->db()->fetchAssociative(
            "SELECT id, party_id, open FROM open_item WHERE side = 'payables' AND open < 0 ORDER BY id LIMIT 1",
        );
        $invoice =
            false === $credit
                ? false
                : $this->db()->fetchAssociative(
                    "SELECT id, open FROM open_item WHERE side = 'payables' AND open > 0 AND party_id = ? ORDER BY id LIMIT 1",
                    [$credit['party_id']],
                );
        if (false === $credit || false === $invoice) {
            return false;
        }
        $amount = mt_rand(1, (int) min(-$credit['open'], $invoice['open']));

        return self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Payables,
                [
                    new PlacementRequest((int) $invoice['id'], $amount),
                    new PlacementRequest((int) $credit['id'], -$amount),
                ],
                [],
                $this->day,
            ),
        );
    }

    private function undo(): ?bool
    {
        $id = $this->one('SELECT id FROM settlement WHERE undone_on IS NULL');
        if (null === $id) {
            return false;
        }
        self::get(UndoSettlement::class)->undo($this->clerk, $id);

        return null;
    }

    private function hold(): ?bool
    {
        $id = $this->one("SELECT id FROM document WHERE kind = 'invoice' AND state = 'posted'");
        if (null === $id) {
            return false;
        }
        null === $this->db()->fetchOne('SELECT held_reason FROM document WHERE id = ?', [$id])
            ? self::get(ChangePosted::class)->hold($this->clerk, $id, 'two short')
            : self::get(ChangePosted::class)->release($this->clerk, $id);

        return null;
    }

    private function refund(): int
    {
        $credit =
            $this->one("SELECT id FROM open_item WHERE side = 'receivables' AND open < 0") ??
            $this->itemOf($this->money(Side::Receivables, mt_rand(1000, 90000), [], [], $this->day->iso()));

        return self::get(RequestRefund::class)->request(
            $this->clerk,
            $credit,
            mt_rand(1, 60000),
            $this->day,
            'paid twice',
        );
    }

    private function dropProposal(): ?bool
    {
        $id = 0 === mt_rand(0, 1) ? $this->proposal('review', 'refused', 'approved') : null;

        if (null === $id) {
            return false;
        }
        self::get(ChangeProposal::class)->dropAll($this->clerk, $id);

        return null;
    }

    private function skip(): int
    {
        $book = (int) $this->one('SELECT id FROM check_book');

        return self::get(SkipChecks::class)->skip(
            $this->clerk,
            $book,
            (int) $this->db()->fetchOne('SELECT next_number FROM check_book WHERE id = ?', [$book]),
            'torn',
        );
    }

    private function nextDay(): void
    {
        $this->day = $this->day->plusDays(mt_rand(1, 4));
    }
}
