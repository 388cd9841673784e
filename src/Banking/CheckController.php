<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\App\Payables\ProposalQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Formats\AmountInWords;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The pages of a run's checks, and what ends a check that was issued. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CheckController extends Screen
{
    public function __construct(private readonly RegisterQuery $register, private readonly ProposalQuery $query)
    {
    }

    #[Route('/payables/proposal/{id<\d+>}/checks.pdf', name: 'proposal_checks', methods: ['GET'])]
    #[Needs(Permission::PayVendors)]
    public function checks(Desk $desk, int $id, Paper $paper): Response
    {
        $number = $this->query->number($desk->id(), $id);
        $checks = [];
        foreach ($this->register->toPrint($desk->id(), $id) as $k) {
            $checks[(int) $k['payment']] = [
                ...$k,
                'words' => AmountInWords::of(Money::of((int) $k['amount'], (string) $k['currency'])),
                'lines' => [],
            ];
        }
        // after a jam only those that wait for the clerk's word are printed again
        if (array_filter($checks, static fn (array $k): bool => 'reserved' === $k['state'])) {
            $checks = array_filter($checks, static fn (array $k): bool => 'reserved' === $k['state']);
        }
        if (null === $number || [] === $checks) {
            throw $this->createNotFoundException('No checks are printed for this run yet.');
        }
        foreach ($this->query->lines($id, true) as $l) {
            if (!$l['dropped'] && isset($checks[(int) $l['payment']])) {
                $checks[(int) $l['payment']]['lines'][] = $l;
            }
        }

        return $paper->pdf(
            'banking/checks_pdf.html.twig',
            ['company' => $desk->company, 'checks' => array_values($checks)],
            'checks-'.$number,
        );
    }

    #[Route('/payables/document/{id<\d+>}/check.pdf', name: 'payment_check', methods: ['GET'])]
    #[Needs(Permission::PayVendors)]
    public function one(Desk $desk, int $id, OneCheck $check, Paper $paper): Response
    {
        try {
            $page = $check->page($desk->actor, $id);
        } catch (Refused $e) {
            throw $this->createNotFoundException($e->getMessage(), $e);
        }

        return $paper->pdf(
            'banking/checks_pdf.html.twig',
            ['company' => $desk->company, 'checks' => [$page]],
            'check-'.$page['number'],
        );
    }

    #[Route('/payables/document/{id<\d+>}/check-spoiled', name: 'payment_check_spoiled', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function spoiled(Desk $desk, int $id, Request $request, OneCheck $check): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $check): string {
                $number = self::int($request->request, 'number');
                $next = $check->spoiled($desk->actor, $id, $number, (string) $request->request->get('reason', ''));

                return \sprintf('Check %d is spoiled; the payment is check %d now. Print that.', $number, $next);
            },
            'document',
            ['company' => $desk->company->code, 'side' => 'payables', 'id' => $id],
        );
    }

    #[Route('/bank/register/{book<\d+>}/void', name: 'register_void', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function void(Desk $desk, int $book, Request $request, VoidCheck $void, BooksDay $booksDay): Response
    {
        return $this->act(
            static function () use ($desk, $book, $request, $void, $booksDay): string {
                $stop = 'stop' === $request->request->get('_action');
                $typed = trim((string) $request->request->get('date', ''));
                $void->void(
                    $desk->actor,
                    $book,
                    self::int($request->request, 'number'),
                    '' === $typed ? $desk->today : $booksDay->input($desk->id())->read($typed, 'date'),
                    (string) $request->request->get('reason', ''),
                    $stop,
                );

                return \sprintf(
                    'Check %d is %s. What it paid is open again, discount included.',
                    self::int($request->request, 'number'),
                    $stop ? 'stopped' : 'void',
                );
            },
            'register',
            ['company' => $desk->company->code, 'book' => $book],
        );
    }
}
