<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * What a customer has open, as a list on which it marks what it pays: a letter, CSV or a workbook. The marked list comes back on the
 * board of a receipt.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
final class OpenListController extends Screen
{
    private const HEADER = [
        'number',
        'document_date',
        'their_order',
        'text',
        'due_date',
        'currency',
        'open',
        'discount',
        'discount_through',
        'pay',
    ];

    #[Route(
        '/{company}/receivables/party/{id<\d+>}/open-list',
        name: 'open_list',
        requirements: ['company' => '[A-Z0-9]{2,12}'],
        methods: ['GET'],
    ),]
    #[Needs(Permission::SeeReceivables)]
    public function list(
        Desk $desk,
        int $id,
        Request $request,
        EntityManagerInterface $entities,
        OpenItemsQuery $items,
        Paper $paper,
    ): Response {
        $party = $this->found($entities->find(Party::class, $id), $desk->id());
        \assert($party instanceof Party);
        if (Side::Receivables !== $party->side) {
            throw $this->createNotFoundException('There is no such customer in this company.');
        }
        $rows = $items->ofParty($desk->id(), Side::Receivables, $id, $desk->today);

        return \in_array($request->query->get('format'), ['csv', 'xlsx'], true)
            ? $this->exported($request, 'open-items-'.$party->code, self::HEADER, array_map(self::cells(...), $rows))
            : $paper->pdf(
                'money/open_list_pdf.html.twig',
                ['company' => $desk->company, 'day' => $desk->today, 'party' => $party, 'rows' => $rows],
                'open-items-'.$party->code,
            );
    }

    /**
     * @param ItemRow $r
     *
     * @return list<string>
     */
    private static function cells(array $r): array
    {
        return [
            $r['number'],
            $r['document_date'],
            $r['their_order'],
            $r['text'],
            $r['due_date'],
            $r['currency'],
            Money::of($r['open'], $r['currency'])->decimal(),
            $r['open'] > 0 && null !== $r['discount'] ? Money::of($r['discount'], $r['currency'])->decimal() : '',
            $r['open'] > 0 ? (string) $r['discount_through'] : '',
            '',
        ];
    }
}
