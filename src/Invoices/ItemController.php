<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\RememberedFilters;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The open items of one side, as of a day. */
#[Route('/{company}/{side}', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class ItemController extends Screen
{
    private const COLUMNS = [
        'party',
        'name',
        'document',
        'their_number',
        'kind',
        'document_date',
        'due',
        'currency',
        'original',
        'open',
        'open_base',
    ];

    public function __construct(private readonly OpenItemsQuery $query, private readonly BooksDay $booksDay)
    {
    }

    #[Route('/items', name: 'items', methods: ['GET'])]
    #[Needs('see')]
    public function list(Desk $desk, Side $side, Request $request, RememberedFilters $remembered): Response
    {
        $left = $remembered->of($desk, $request, 'items-'.$side->value, ['party', 'only', 'as_of', 'settled']);
        $asOf = $desk->today;
        $error = null;
        try {
            $asOf = '' === $left['as_of'] ? $asOf : $this->booksDay->input($desk->id())->read($left['as_of'], 'as_of');
        } catch (Refused $e) {
            $error = $e->getMessage();
        }
        $order = (string) $request->query->get('order');
        $filter = new ItemFilter(
            $desk->id(),
            $side,
            $asOf,
            null,
            mb_substr(trim($left['party']), 0, 120),
            \in_array($left['only'], ItemFilter::ONLY, true) ? $left['only'] : '',
            '1' === $left['settled'],
            \in_array($order, ItemFilter::ORDERS, true) ? $order : 'due',
        );
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                $side->value.'-open-items-'.$asOf->iso(),
                self::COLUMNS,
                $this->cells($filter, $desk->company->baseCurrency),
            );
        }
        $after = $request->query->get('after');

        return $this->render('invoices/items.html.twig', [
            'side' => $side,
            'as_of' => $asOf,
            'filter' => $filter,
            'error' => $error,
            'page' => $this->query->page($filter, \is_string($after) ? $after : null),
            'foot' => $this->query->foot($filter),
            'begun' => null !== $after,
        ]);
    }

    /** @return iterable<list<string>> */
    private function cells(ItemFilter $filter, string $base): iterable
    {
        foreach ($this->query->each($filter) as $r) {
            yield [
                $r['party'],
                $r['party_name'],
                $r['number'],
                $r['their_number'],
                $r['kind'],
                $r['document_date'],
                $r['due_date'],
                $r['currency'],
                Money::of($r['original'], $r['currency'])->decimal(),
                Money::of($r['open'], $r['currency'])->decimal(),
                Money::of($r['open_base'], $base)->decimal(),
            ];
        }
    }
}
