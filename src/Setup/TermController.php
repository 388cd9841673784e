<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\TermDates;
use Nelbix\Core\Terms\TermInWords;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Payment terms: worded as sentences with gaps, with a live sample beside them. */
#[Route('/{company}/setup/terms', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TermController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly TermsQuery $terms,
        private readonly BooksDay $booksDay,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'terms', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function list(Desk $desk, Request $request): Response
    {
        $q = mb_substr(trim((string) $request->query->get('q', '')), 0, 40);
        $retired = '1' === $request->query->get('retired');
        $rows = [];
        foreach ($this->terms->of($desk->id()) as $record) {
            if (
                ($retired || !$record->retired)
                && ('' === $q || str_contains(mb_strtolower($record->code.' '.$record->text), mb_strtolower($q)))
            ) {
                $rows[] = $record;
            }
        }
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'terms',
                ['code', 'text', 'use', 'runs_from', 'net', 'windows', 'discounts', 'instalments', 'grace_days'],
                array_map(
                    static fn (PaymentTermRecord $r): array => [
                        $r->code,
                        $r->text,
                        $r->usedBy,
                        ...array_map(static fn (string $k): string => $r->spec[$k] ?? '', [
                            'runs_from',
                            'net',
                            'windows',
                            'discounts',
                            'instalments',
                            'grace_days',
                        ]),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('setup/terms.html.twig', [
            'rows' => $rows,
            'words' => array_map(static fn (PaymentTermRecord $r): string => TermInWords::of($r->term()), $rows),
            'q' => $q,
            'retired' => $retired,
        ]);
    }

    #[Route('/new', name: 'term_new', methods: ['GET'])]
    #[Needs(Permission::Control)]
    public function add(Desk $desk): Response
    {
        return $this->form(
            $desk,
            ['code' => '', 'text' => '', 'use' => 'both', ...TermForm::fromSpec(['net' => '30'])],
            null,
        );
    }

    #[Route('/{id<\d+>}', name: 'term', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function show(Desk $desk, int $id): Response
    {
        $record = $this->record($desk, $id);

        return $this->form(
            $desk,
            [
                'code' => $record->code,
                'text' => $record->text,
                'use' => $record->usedBy,
                'retired' => $record->retired ? 'yes' : '',
                ...TermForm::fromSpec($record->spec),
            ],
            $record,
        );
    }

    #[Route('/save', name: 'term_save', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function save(Desk $desk, Request $request, SaveTerm $saveTerm): Response
    {
        $id = self::int($request->request, '_id') ?: null;
        $raw = $request->request->all();
        try {
            $saveTerm->save($desk->actor, TermForm::toSpec($raw), $id);
        } catch (Refused $e) {
            return $this->form($desk, $raw, null === $id ? null : $this->record($desk, $id), $e->problems);
        }
        $this->say('The terms are saved. Posted documents keep the dates they have; new ones follow these.');

        return $this->redirectToRoute('terms', ['company' => $desk->company->code], 303);
    }

    #[Route('/sample', name: 'term_sample', methods: ['POST'])]
    #[Needs(Permission::SeeLedger)]
    public function sample(Desk $desk, Request $request): Response
    {
        return $this->render('setup/_term_sample.html.twig', $this->worked($desk, $request->request->all()));
    }

    /**
     * @param array<mixed> $form
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, array $form, ?PaymentTermRecord $record, array $problems = []): Response
    {
        $form = [
            'code' => '',
            'text' => '',
            'use' => 'both',
            'runs_from' => 'document',
            'retired' => '',
            ...array_filter(
                $form,
                static fn (mixed $v, string $k): bool => \is_array($v) ===
                    \in_array($k, ['windows', 'discounts', 'instalments', 'net', 'sample'], true),
                \ARRAY_FILTER_USE_BOTH,
            ),
        ];
        foreach (
            [
                'windows' => ['from' => '', 'to' => ''],
                'discounts' => ['percent' => ''],
                'instalments' => ['percent' => ''],
            ] as $name => $own
        ) {
            $form[$name] = [
                ...array_map(
                    static fn (mixed $row): array => [
                        ...$own,
                        ...array_filter(\is_array($row) ? $row : [], is_string(...)),
                    ],
                    array_values(\is_array($form[$name] ?? null) ? $form[$name] : []),
                ),
                [...$own, 'how' => 'windows' === $name ? 'month' : 'days', 'n' => '', 'k' => ''],
            ];
        }
        $used = null === $record ? 0 : $this->terms->used($record->id());

        return $this->render(
            'setup/term.html.twig',
            [
                ...$this->worked($desk, $form),
                'form' => $form,
                'record' => $record,
                'used' => $used,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'history' => null === $record ? [] : $this->history->of($desk->id(), 'terms', $record->id()),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * The term as the gaps stand now, and what it makes of the sample.
     *
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, array $raw): array
    {
        $found = new ProblemList();
        $sample = \is_array($raw['sample'] ?? null) ? $raw['sample'] : [];
        $typed = static fn (string $key): string => \is_string($sample[$key] ?? null) ? trim($sample[$key]) : '';
        $input = $this->booksDay->input($desk->id());
        $day = static fn (string $key): Day => '' === $typed($key)
            ? $desk->today
            : $found->attempt(static fn (): Day => $input->read($typed($key), 'sample')) ?? $desk->today;
        $currency = $desk->company->baseCurrency;
        $amount =
            '' === $typed('amount')
                ? 100_000
                : $found->attempt(
                    static fn (): int => AmountInput::read($typed('amount'), Currency::of($currency), 'sample')
                        ->minor,
                ) ?? 0;
        $document = $day('document');
        $posting = '' === $typed('posting') ? $document : $day('posting');
        /** @var PaymentTerm|null $term */
        $term = $found->attempt(static fn (): PaymentTerm => PaymentTerm::fromSpec(TermForm::toSpec($raw)));
        $dates = new TermDates($document, $posting, $posting, '' === $typed('asked') ? $document : $day('asked'));
        $parts =
            null === $term
                ? []
                : $found->attempt(static fn (): array => $term->schedule($dates, $amount, $amount)) ?? [];
        $start = null === $term ? null : $found->attempt(static fn (): Day => $term->start($dates));

        return [
            'term' => $term,
            'words' => null === $term ? '' : TermInWords::of($term),
            'parts' => $parts,
            'start' => $start,
            'currency' => $currency,
            'amount' => $amount,
            'sampleDates' => $dates,
            'found' => $found->all,
            'months' => null === $start ? [] : TermCalendar::months($dates, $start, $parts),
            'strip' => null === $term ? [] : TermCalendar::strip($term),
        ];
    }

    private function record(Desk $desk, int $id): PaymentTermRecord
    {
        $record = $this->entities->find(PaymentTermRecord::class, $id);

        return null !== $record && $record->companyId === $desk->id()
            ? $record
            : throw $this->createNotFoundException('There are no such terms in this company.');
    }
}
