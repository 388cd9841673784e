<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What is done with a set and its pairs: run, stop, decide, pair by hand, post a difference, take back. */
#[Route('/{company}/pairing/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class PairController extends Screen
{
    public function __construct(private readonly PairingDesk $pairing)
    {
    }

    /** @param \Closure(): ?string $action */
    private function done(Desk $desk, int $id, \Closure $action): Response
    {
        $this->pairing->set($desk, $id);

        return $this->act($action, 'pairing_set', ['company' => $desk->company->code, 'id' => $id]);
    }

    #[Route('/run', name: 'pairing_run', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function run(Desk $desk, int $id, RunPairing $run): Response
    {
        return $this->done($desk, $id, static function () use ($desk, $id, $run): ?string {
            $run->start($desk->actor, $id);

            return null;
        });
    }

    #[Route('/stop', name: 'pairing_stop', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function stop(Desk $desk, int $id, RunPairing $run): Response
    {
        return $this->done($desk, $id, static function () use ($desk, $id, $run): string {
            $run->stop($desk->actor, $id);

            return 'It stops after the rule that is at work. What is paired stays; run it again to go on.';
        });
    }

    #[Route('/decide', name: 'pairing_decide', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function decide(Desk $desk, int $id, Request $request, DecidePair $decide): Response
    {
        return $this->done($desk, $id, static function () use ($desk, $id, $request, $decide): string {
            $yes = 'yes' === $request->request->get('answer');
            $decide->decide($desk->actor, $id, max(0, self::int($request->request, 'pair')), $yes);

            return $yes ? 'They belong together.' : 'They do not belong together; both are over again.';
        });
    }

    #[Route('/hand', name: 'pairing_hand', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function hand(Desk $desk, int $id, Request $request, PairByHand $byHand): Response
    {
        return $this->done($desk, $id, static function () use ($desk, $id, $request, $byHand): string {
            $rows = array_filter(
                $request->request->all('rows'),
                static fn (mixed $v): bool => \is_string($v) && ctype_digit($v),
            );
            $byHand->pair($desk->actor, $id, array_values(array_map('intval', $rows)));

            return 'Paired by hand.';
        });
    }

    #[Route('/undo', name: 'pairing_undo', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function undo(Desk $desk, int $id, Request $request, UndoPairs $undo): Response
    {
        return $this->done($desk, $id, static function () use ($desk, $id, $request, $undo): string {
            $undo->undo(
                $desk->actor,
                $id,
                max(0, self::int($request->request, 'pair')),
                (string) $request->request->get('reason', ''),
            );

            return 'The pair is taken apart; its rows are over again.';
        });
    }

    #[Route('/undo-run', name: 'pairing_undo_run', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function undoRun(Desk $desk, int $id, Request $request, UndoPairs $undo): Response
    {
        return $this->done(
            $desk,
            $id,
            static fn (): string => \sprintf(
                'The run is undone: %s taken apart.',
                Words::count($undo->undoRun($desk->actor, $id, max(0, self::int($request->request, 'run'))), 'pair'),
            ),
        );
    }

    /** Only in the company that adjusts, by somebody who enters that side. */
    #[Route('/difference', name: 'pairing_difference', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function difference(
        Desk $desk,
        int $id,
        Request $request,
        PostDifference $post,
        BooksDay $booksDay,
    ): Response {
        $set = $this->pairing->set($desk, $id);

        return $this->done($desk, $id, function () use ($desk, $id, $set, $request, $post, $booksDay): string {
            $side = $set->source($set->adjusts)->side;
            if (null === $side ? !$desk->may(Permission::Control) : !$desk->enters($side)) {
                throw Refused::because(
                    '',
                    null === $side
                        ? 'An entry on an account is posted by a controller.'
                        : \sprintf('Your role does not enter %s.', $side->value),
                );
            }
            $this->pairing->mustSee($desk, $set);
            $post->post(
                $desk->actor,
                $id,
                max(0, self::int($request->request, 'pair')),
                (string) $request->request->get('account', ''),
                $booksDay->asked($desk->id(), $request->request, 'date', $desk->today),
            );

            return 'The difference is posted and belongs to the pair.';
        });
    }

    /** What is missing here becomes a draft. */
    #[Route('/mirror', name: 'pairing_mirror', methods: ['POST'])]
    #[Needs(Permission::PairRecords)]
    public function mirror(Desk $desk, int $id, Request $request, MirrorInvoice $mirror): Response
    {
        $set = $this->pairing->set($desk, $id);
        $own = $set->source('left')->companyId === $desk->id() ? $set->source('left') : $set->source('right');
        $side = $own->side ?? Side::Payables;
        try {
            if (!$desk->enters($side)) {
                throw Refused::because('', \sprintf('Your role does not enter %s.', $side->value));
            }
            $this->pairing->mustSee($desk, $set);
            $draft = $mirror->draft($desk->actor, $id, max(0, self::int($request->request, 'row')));
        } catch (Refused $e) {
            $this->refused($e);

            return $this->redirectToRoute('pairing_set', ['company' => $desk->company->code, 'id' => $id], 303);
        }
        $this->say('A draft is made of it; look it through and post it.');

        return $this->redirectToRoute(
            'invoice_draft',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $draft],
            303,
        );
    }

    /** Differences that were not posted, as the journal file that any ledger takes. */
    #[Route('/journal', name: 'pairing_journal', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function journal(Desk $desk, int $id, Request $request, PairingQuery $query, PairingResult $result): Response
    {
        $set = $this->pairing->set($desk, $id);
        if (!$this->pairing->sees($desk, $set, 'left') || !$this->pairing->sees($desk, $set, 'right')) {
            throw $this->createAccessDeniedException('The amounts of the other company are not shown here.');
        }
        $rules = array_column($query->rules($id), null, 'id');

        return $this->exported(
            $request,
            'differences-'.$id,
            ['entry', 'date', 'text', 'account', 'debit', 'credit'],
            self::entries($set, $result->pairs($set, PairState::standing(), 100_000), $rules, $desk->today->iso()),
        );
    }

    /**
     * @param list<array<string, mixed>> $pairs
     * @param array<int|string, array<string, mixed>> $rules
     *
     * @return iterable<list<string>>
     */
    private static function entries(PairingSet $set, array $pairs, array $rules, string $today): iterable
    {
        $source = $set->source($set->adjusts);
        foreach ($pairs as $p) {
            if (0 === (int) $p['difference'] || null !== $p['document_id'] || null !== $p['entry_id']) {
                continue;
            }
            $grows = ('left' === $set->adjusts ? 1 : -1) * $set->signOf($set->adjusts) * (int) $p['difference'];
            // items grow against the ledger's sign on the payables side
            $debit = Side::Payables === $source->side ? -$grows : $grows;
            $clauses = $rules[(int) $p['rule_id']]['clauses'] ?? [];
            $account = \is_array($clauses) ? (string) ($clauses['account'] ?? '') : '';
            $amount = Money::of(abs($debit), $set->currency)->decimal();
            $text = 'Difference of pair '.$p['id'];
            $control = 'account' === $source->kind ? 'account of the set' : 'control account';
            yield [(string) $p['id'], $today, $text, $control, $debit > 0 ? $amount : '', $debit > 0 ? '' : $amount];
            yield [(string) $p['id'], $today, $text, $account, $debit > 0 ? '' : $amount, $debit > 0 ? $amount : ''];
        }
    }
}
