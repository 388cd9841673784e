<?php

declare(strict_types=1);

namespace Nelbix\App\Today;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TodayController extends Screen
{
    #[Route('', name: 'today', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function today(Desk $desk, TodayQuery $query): Response
    {
        return $this->render('today/today.html.twig', [
            'waits' => $query->of($desk->id(), $desk->today, $desk->actor->userId),
            'ahead' => TodayQuery::DAYS_AHEAD,
        ]);
    }

    #[Route('/search', name: 'search', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function search(Desk $desk, Request $request, Connection $db): Response
    {
        $q = mb_substr(trim((string) $request->query->get('q', '')), 0, 60);
        $sides = array_values(array_filter(Side::cases(), $desk->sees(...)));
        $documents = $parties = [];
        if ('' !== $q && [] !== $sides) {
            $in = "'".implode("','", array_map(static fn (Side $s): string => $s->value, $sides))."'";
            $like = addcslashes($q, '%_\\').'%';
            $documents = $db->fetchAllAssociative(
                <<<SQL
                SELECT d.id, d.side, d.kind, d.number, d.their_number, d.state, d.document_date, d.total, d.currency, p.name
                FROM document d
                LEFT JOIN party p ON p.id = d.party_id
                WHERE d.company_id = ? AND d.side IN ($in) AND (d.number LIKE ? OR d.their_number LIKE ?)
                ORDER BY d.id DESC
                LIMIT 30
                SQL
                ,
                [$desk->id(), $like, $like],
            );
            $parties = $db->fetchAllAssociative(
                <<<SQL
                SELECT id, side, code, name, city, tax_number
                FROM party
                WHERE company_id = ? AND side IN ($in) AND (code LIKE ? OR name LIKE ? OR name LIKE ? OR tax_number LIKE ?
                    OR street LIKE ?)
                ORDER BY name
                LIMIT 20
                SQL
                ,
                [$desk->id(), $like, $like, '% '.$like, $like, $like],
            );
            if (1 === preg_match('/\A[\d,]+\.\d\d\z/', $q)) {
                $documents = [
                    ...$documents,
                    ...$db->fetchAllAssociative(
                        <<<SQL
                        SELECT d.id, d.side, d.kind, d.number, d.their_number, d.state, d.document_date, d.total, d.currency, p.name
                        FROM document d
                        LEFT JOIN party p ON p.id = d.party_id
                        WHERE d.company_id = ? AND d.side IN ($in) AND d.total = ?
                        ORDER BY d.id DESC
                        LIMIT 30
                        SQL
                        ,
                        [$desk->id(), (int) str_replace([',', '.'], '', $q)],
                    ),
                ];
            }
        }

        $deliveries =
            '' === $q || !$desk->may(Permission::SeeDeliveries)
                ? []
                : $db->fetchAllAssociative(
                    <<<'SQL'
                    SELECT g.id, g.number, g.note_number, g.delivered_on, g.amount, g.currency, p.name
                    FROM delivery g
                    JOIN party p ON p.id = g.party_id
                    WHERE g.company_id = ? AND (g.number LIKE ? OR g.note_number LIKE ?)
                    ORDER BY g.id DESC
                    LIMIT 30
                    SQL
                    ,
                    [$desk->id(), addcslashes($q, '%_\\').'%', addcslashes($q, '%_\\').'%'],
                );

        return $this->render('today/search.html.twig', [
            'q' => $q,
            'documents' => $documents,
            'parties' => $parties,
            'deliveries' => $deliveries,
        ]);
    }
}
