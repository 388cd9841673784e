<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\EarlyDiscount;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What is overdue, falls due soon, or earns a discount; and a vendor's own list of it compared with ours. */
#[Route('/{company}/payables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class DueController extends Screen
{
    private const SHOWN = 500;
    private const MOST_BYTES = 1_000_000;

    public function __construct(
        private readonly Connection $db,
        private readonly CandidateQuery $candidates,
        private readonly ItemLabels $labels,
    ) {
    }

    #[Route('/due/{which}', name: 'due_list', requirements: ['which' => 'overdue|soon|discounts'], methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, string $which, Request $request): Response
    {
        $days = max(1, min(120, $request->query->getInt('days', 14)));
        $until = $desk->today->plusDays($days);
        $rows = array_values(
            array_filter(
                array_map(
                    fn (Candidate $c): array => $this->row($c, $desk->today),
                    array_values(
                        array_filter(
                            $this->candidates->open($desk->id()),
                            static fn (Candidate $c): bool => $c->item->open > 0,
                        ),
                    ),
                ),
                static fn (array $r): bool => match ($which) {
                    'overdue' => $r['days'] > 0,
                    'soon' => $r['days'] <= 0 && !$r['due']->isAfter($until),
                    default => null !== $r['through'] && !$r['through']->isAfter($until),
                },
            ),
        );
        usort(
            $rows,
            static fn (array $a, array $b): int => 'discounts' === $which
                ? [$a['through']?->iso(), -$a['discount']] <=> [$b['through']?->iso(), -$b['discount']]
                : [-$a['days'], $a['code'], $a['number']] <=> [-$b['days'], $b['code'], $b['number']],
        );
        $shown = self::wantsFile($request) ? $rows : \array_slice($rows, 0, self::SHOWN);
        $names = $this->labels->of($desk->id(), array_column($shown, 'id'));
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'due-'.$which,
                [
                    'vendor',
                    'name',
                    'document',
                    'their_number',
                    'due',
                    'days_late',
                    'discount_date',
                    'discount',
                    'yearly_yield',
                    'currency',
                    'open',
                ],
                array_map(
                    static fn (array $r): array => [
                        $r['code'],
                        (string) $names[$r['id']]['name'],
                        $r['number'],
                        (string) $names[$r['id']]['their_number'],
                        $r['due']->iso(),
                        (string) $r['days'],
                        (string) $r['through']?->iso(),
                        Money::of($r['discount'], $r['currency'])->decimal(),
                        (string) $r['yield'],
                        $r['currency'],
                        Money::of($r['open'], $r['currency'])->decimal(),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('payables/due.html.twig', [
            'which' => $which,
            'days' => $days,
            'rows' => $shown,
            'count' => \count($rows),
            'total' => array_sum(array_column($rows, 'base')),
            'names' => $names,
        ]);
    }

    /**
     * @return array{id: int, code: string, number: string, due: Day, days: int, through: ?Day, discount: int, yield: ?string,
     *     currency: string, original: int, open: int, base: int, held: bool, reserved: ?string}
     */
    private function row(Candidate $c, Day $today): array
    {
        $step = $c->item->discount?->stepOn($today);
        $yield =
            null === $step
                ? null
                : EarlyDiscount::yearlyYield($step->percent, $step->through->daysUntil($c->item->due));

        return [
            'id' => $c->item->id,
            'code' => $c->payee->code,
            'number' => $c->item->number,
            'due' => $c->item->due,
            'days' => $c->item->due->daysUntil($today),
            'through' => $step?->through,
            'discount' => $c->item->discountOn($today),
            'yield' => null === $step ? null : (null === $yield ? 'at once' : (string) $yield),
            'currency' => $c->item->currency,
            'original' => $c->item->original,
            'open' => $c->item->open,
            'base' => $c->item->openBase,
            'held' => $c->held,
            'reserved' => $c->reservedBy,
        ];
    }

    #[Route('/statement-check', name: 'statement_check', methods: ['GET', 'POST'])]
    #[Needs(Permission::SeePayables)]
    public function statement(Desk $desk, Request $request, Lookup $lookup): Response
    {
        $form = [
            'party' => mb_substr(
                (string) ($request->request->get('party') ?? $request->query->get('party', '')),
                0,
                20,
            ),
            'statement' => mb_substr((string) $request->request->get('statement', ''), 0, self::MOST_BYTES),
        ];
        $check = $party = null;
        $problems = $items = [];
        $currency = $desk->company->baseCurrency;
        if ($request->isMethod('POST')) {
            try {
                $upload = $request->files->get('file');
                if ($upload instanceof UploadedFile) {
                    $form['statement'] =
                        $upload->isValid() && $upload->getSize() <= self::MOST_BYTES
                            ? mb_scrub($upload->getContent())
                            : throw Refused::because(
                                'statement',
                                'The list cannot be read, or is larger than a megabyte; paste a part of it.',
                            );
                }
                $party = $lookup->party($desk->id(), Side::Payables, $form['party']);
                $currency = $party->currency ?? $currency;
                $theirs = StatementCheck::read($form['statement'], Currency::of($currency), $problems);
                $items = $this->db->fetchAllAssociativeIndexed(
                    <<<SQL
                    SELECT i.id, i.number, d.their_number, i.document_date, i.due_date, i.open, d.id AS document_id
                    FROM open_item i
                    JOIN document d ON d.id = i.document_id
                    WHERE i.company_id = ? AND i.side = 'payables' AND i.party_id = ? AND i.open <> 0 AND i.currency = ?
                        AND i.kind IN ('invoice', 'credit_note', 'debit_note')
                    ORDER BY i.document_date, i.id
                    SQL
                    ,
                    [$desk->id(), $party->id(), $currency],
                );
                if ([] === $theirs && [] === $problems) {
                    throw Refused::because(
                        'statement',
                        'No line has a number and an amount; paste the vendor’s list with the number first and the amount last.',
                    );
                }
                $ours = [];
                foreach ($items as $id => $r) {
                    $ours[] = [
                        'id' => (int) $id,
                        'number' => '' === $r['their_number'] ? (string) $r['number'] : (string) $r['their_number'],
                        'open' => (int) $r['open'],
                    ];
                }
                $check = StatementCheck::compare($theirs, $ours);
            } catch (Refused $e) {
                $problems = [...$problems, ...$e->problems];
            }
        }
        // what they have and we lack may have come and be paid, held as a draft, or be reversed
        $known = [];
        foreach ($check->weLack ?? [] as $row) {
            $document = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT id, number, state, kind
                FROM document
                WHERE company_id = ? AND party_id = ? AND side = 'payables' AND their_key = ? AND reverses_id IS NULL
                ORDER BY id DESC
                LIMIT 1
                SQL
                ,
                [$desk->id(), $party?->id, StatementCheck::key($row['number'])],
            );
            $known[$row['number']] = false === $document ? null : $document;
        }

        return $this->render(
            'payables/statement.html.twig',
            [
                'form' => $form,
                'check' => $check,
                'party' => $party,
                'currency' => $currency,
                'items' => $items,
                'known' => $known,
                'problems' => $problems,
                'errors' => self::byField($problems),
            ],
            new Response(null, [] === $problems || null !== $check ? 200 : 422),
        );
    }
}
