<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\JournalQuery;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Parties\Pickers;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Deliveries: what came and is not invoiced yet. The receiver's screens; others see them. */
#[Route('/{company}/deliveries', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class DeliveryController extends Screen
{
    /** Lines of orders stand in the form under this and their id; the others from zero on. */
    private const ORDERED = 1_000_000;

    private const LINE = [
        'account' => '',
        'text' => '',
        'quantity' => '',
        'unit' => '',
        'price' => '',
        'cost_center' => '',
        'department' => '',
        'project' => '',
    ];

    public function __construct(
        private readonly DeliveryReader $reader,
        private readonly RecordDelivery $recordDelivery,
        private readonly Chart $chart,
        private readonly OrderedLines $ordered,
    ) {
    }

    #[Route('', name: 'deliveries', methods: ['GET'])]
    #[Needs(Permission::SeeDeliveries)]
    public function list(Desk $desk, Request $request, DeliveryListQuery $list): Response
    {
        $all = 'all' === $request->query->get('show');
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'deliveries',
                ['number', 'vendor', 'name', 'delivery_note', 'delivered_on', 'currency', 'amount', 'reversed_on'],
                self::cells($list->each($desk->id(), $all)),
            );
        }

        $after = $request->query->get('after');

        return $this->render('goods/list.html.twig', [
            'page' => $list->page($desk->id(), $all, \is_string($after) ? $after : null),
            'begun' => null !== $after,
            'all' => $all,
            'foot' => $list->foot($desk->id()),
        ]);
    }

    /**
     * @param iterable<array<string, mixed>> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(iterable $rows): iterable
    {
        foreach ($rows as $r) {
            yield [
                (string) $r['number'],
                (string) $r['code'],
                (string) $r['name'],
                (string) $r['note_number'],
                (string) $r['delivered_on'],
                (string) $r['currency'],
                Money::of((int) $r['amount'], (string) $r['currency'])->decimal(),
                (string) $r['reversed_on'],
            ];
        }
    }

    #[Route('/new', name: 'delivery_new', methods: ['GET'])]
    #[Needs(Permission::RecordDeliveries)]
    public function enter(Desk $desk, Request $request): Response
    {
        return $this->form($desk, [
            'delivered_on' => $desk->today->long(),
            'find' => mb_substr((string) $request->query->get('find', ''), 0, 60),
        ]);
    }

    #[Route('/live', name: 'delivery_live', methods: ['POST'])]
    #[Needs(Permission::RecordDeliveries)]
    public function live(Desk $desk, Request $request): Response
    {
        return $this->render('goods/live.html.twig', $this->worked($desk, $request->request->all()));
    }

    #[Route('/new', name: 'delivery_record', methods: ['POST'])]
    #[Needs(Permission::RecordDeliveries)]
    public function record(Desk $desk, Request $request, DeliverySaid $said): Response
    {
        $raw = $request->request->all();
        try {
            $id = $this->recordDelivery->record(
                $desk->actor,
                $this->reader->read($desk->actor, $raw),
                FormKey::of($request),
            );
        } catch (Refused $e) {
            return $this->form($desk, $raw, $e->problems);
        }
        $this->say($said->recorded($desk, $id, 'Recorded'));

        return $this->redirectToRoute('delivery', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{id<\d+>}', name: 'delivery', methods: ['GET'])]
    #[Needs(Permission::SeeDeliveries)]
    public function show(
        Desk $desk,
        int $id,
        EntityManagerInterface $entities,
        DeliveryQuery $query,
        JournalQuery $journal,
        HistoryQuery $history,
        FileStore $files,
    ): Response {
        $delivery = $this->found($entities->find(Delivery::class, $id), $desk->id());
        $moves = $query->moves($id);

        return $this->render('goods/delivery.html.twig', [
            'delivery' => $delivery,
            'party' => $query->party($id),
            'lines' => $query->lines($id),
            'moves' => $moves,
            'papers' => $files->of($desk->id(), DeliveryPaperController::PAPER, $id),
            'entries' => $journal->ofSource($desk->id(), Source::delivery($id), Source::goodsSlips($moves)),
            'history' => $history->of($desk->id(), 'delivery', $id),
        ]);
    }

    #[Route('/{id<\d+>}/reverse', name: 'delivery_reverse', methods: ['POST'])]
    #[Needs(Permission::RecordDeliveries)]
    public function reverse(
        Desk $desk,
        int $id,
        Request $request,
        ReverseDelivery $reverse,
        BooksDay $booksDay,
        DeliveryQuery $query,
    ): Response {
        return $this->act(
            static function () use ($desk, $id, $request, $reverse, $booksDay, $query): string {
                $typed = trim((string) $request->request->get('date', ''));
                $day = '' === $typed ? $desk->today : $booksDay->input($desk->id())->read($typed, 'date');
                $before = $query->recorded($id);
                $reverse->reverse($desk->actor, $id, $day, (string) $request->request->get('reason', ''));

                return DeliverySaid::takenBack($desk, $before, $day);
            },
            'delivery',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    /** The receiver sees no payables, and still has to name a vendor and an account. */
    #[Route(
        '/pick/{what}',
        name: 'delivery_pick',
        requirements: ['what' => 'party|account|cost_center|department|project'],
        methods: ['GET'],
    ),]
    #[Needs(Permission::RecordDeliveries)]
    public function pick(Desk $desk, string $what, Request $request, Pickers $pickers): JsonResponse
    {
        return new JsonResponse(
            $pickers->find($desk->id(), Side::Payables, $what, (string) $request->query->get('q', '')),
        );
    }

    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, array $raw, array $problems = []): Response
    {
        return $this->render(
            'goods/form.html.twig',
            [
                ...$this->worked($desk, $raw),
                'problems' => $problems,
                'errors' => self::byField($problems),
                'key' => FormKey::goOn($raw),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, array $raw): array
    {
        $input = $this->reader->read($desk->actor, $raw);
        $entry = null;
        $refusal = null;
        try {
            $entry = $this->recordDelivery->preview($desk->actor, $input);
        } catch (Refused $e) {
            $refusal = $e->getMessage();
        }
        $typed = array_filter($input->problems, static fn (Problem $p): bool => ProblemKind::Missing !== $p->kind);
        [$free, $came] = self::apart(\is_array($raw['lines'] ?? null) ? $raw['lines'] : []);

        return [
            'input' => $input,
            'entry' => $entry,
            'refusal' => $refusal,
            'form' => $raw,
            'typed' => self::byField(array_values($typed)),
            'accounts' => $this->chart->accounts($desk->id()),
            'ordered' => $this->toCome($desk, $input, $raw, array_keys($came)),
            'came' => $came,
            'offset' => self::ORDERED,
            'lines' => self::formLines(['lines' => $free], self::LINE),
        ];
    }

    /**
     * What may have come: all that is still to come of the vendor, or that the words find; and what is typed already.
     *
     * @param array<mixed> $raw
     * @param list<int> $typed ids of order lines
     *
     * @return array<int, OrderedLine> by id
     */
    private function toCome(Desk $desk, DeliveryInput $input, array $raw, array $typed): array
    {
        $words = \is_string($raw['find'] ?? null) ? mb_substr(trim($raw['find']), 0, 60) : '';
        // a vendor that is only known by what is typed for its order narrows nothing: the field in use would go
        $typedVendor = \is_string($raw['party'] ?? null) && '' !== trim($raw['party']);
        $found = $this->ordered->toCome($desk->id(), $typedVendor ? $input->party?->id() : null, $words, false);

        return $this->ordered->of($desk->id(), array_values(array_diff($typed, array_keys($found)))) + $found;
    }

    /**
     * The rows of goods that nobody ordered, and what is typed for lines of orders, by id of those.
     *
     * @param array<mixed> $lines
     *
     * @return array{list<mixed>, array<int, array<mixed>>}
     */
    private static function apart(array $lines): array
    {
        $free = $came = [];
        foreach ($lines as $k => $line) {
            if (\is_int($k) && $k >= self::ORDERED && \is_array($line)) {
                $came[$k - self::ORDERED] = array_filter($line, is_string(...));
            } else {
                $free[] = $line;
            }
        }
        // an order's line that nothing is typed for is not kept on the page
        $came = array_filter($came, static fn (array $l): bool => '' !== trim((string) ($l['quantity'] ?? '')));

        return [$free, $came];
    }
}
