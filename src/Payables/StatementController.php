<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Books\Lookup;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A vendor's own list of what is open, compared with ours. */
#[Route('/{company}/payables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class StatementController extends Screen
{
    private const MOST_BYTES = 1_000_000;

    public function __construct(private readonly StatementQuery $query, private readonly Lookup $lookup)
    {
    }

    #[Route('/statement-check', name: 'statement_check', methods: ['GET', 'POST'])]
    #[Needs(Permission::SeePayables)]
    public function statement(Desk $desk, Request $request): Response
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
                $form['statement'] = self::uploaded($request) ?? $form['statement'];
                $party = $this->lookup->party($desk->id(), Side::Payables, $form['party']);
                $currency = $party->currency ?? $currency;
                $theirs = StatementCheck::read($form['statement'], Currency::of($currency), $problems);
                $items = $this->query->open($desk->id(), $party->id(), $currency);
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
        $known =
            null === $check || null === $party
                ? []
                : $this->query->known($desk->id(), $party->id(), array_column($check->weLack, 'number'));

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

    /** @throws Refused */
    private static function uploaded(Request $request): ?string
    {
        $upload = $request->files->get('file');
        if (!$upload instanceof UploadedFile) {
            return null;
        }

        return $upload->isValid() && $upload->getSize() <= self::MOST_BYTES
            ? mb_scrub($upload->getContent())
            : throw Refused::because(
                'statement',
                'The list cannot be read, or is larger than a megabyte; paste a part of it.',
            );
    }
}
