<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Payables\ProposalQuery;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\StandIns;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Files of payments for the bank: made of a run, sent, answered. */
#[Route('/{company}/bank/files', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class BankFileController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly BankFileQuery $query,
        private readonly BankAccounts $banks,
        private readonly StandIns $standIns,
    ) {
    }

    #[Route('', name: 'bank_files', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, Request $request): Response
    {
        $rows = $this->query->list($desk->id(), self::wantsFile($request) ? null : BankFileQuery::LISTED);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'bank-files',
                [
                    'number',
                    'format',
                    'run',
                    'bank',
                    'pay_date',
                    'payments',
                    'amount',
                    'made_by',
                    'sent',
                    'accepted',
                    'rejected',
                ],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['number'],
                        (string) $r['format'],
                        (string) $r['run'],
                        (string) $r['bank'],
                        (string) $r['pay_date'],
                        (string) $r['payments'],
                        Money::of((int) $r['amount'], (string) $r['currency'])->decimal(),
                        (string) $r['made_by'],
                        (string) $r['sent_at'],
                        (string) $r['accepted'],
                        (string) $r['rejected'],
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('banking/files.html.twig', [
            'stand_ins' => $this->standIns->here,
            'rows' => $rows,
            'banks' => array_column(
                array_map(
                    static fn (BankRow $b): array => [$b->id, $b->code.' '.$b->name],
                    array_filter(
                        $this->banks->inUse($desk->id()),
                        static fn (BankRow $b): bool => 'USD' === $b->currency,
                    ),
                ),
                1,
                0,
            ),
        ]);
    }

    #[Route('/{id<\d+>}', name: 'bank_file', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function show(Desk $desk, int $id, ProposalQuery $proposals, HistoryQuery $history): Response
    {
        $file = $this->bankFile($desk, $id);

        return $this->render('banking/file.html.twig', [
            'file' => $file,
            'stand_ins' => $this->standIns->here,
            'bank' => $this->banks->find($desk->id(), $file->bankAccountId),
            'run' => null === $file->proposalId ? null : $proposals->number($desk->id(), $file->proposalId),
            'lines' => $this->query->lines($id),
            'history' => $history->of($desk->id(), 'bank_file', $id),
            'area' => 'bank',
            'side' => 'payables',
            'routes' => 'bank_file',
            'list' => 'bank_files',
            'may' => $desk->may(Permission::PayVendors),
        ]);
    }

    #[Route('/{id<\d+>}/content', name: 'bank_file_content', methods: ['GET'])]
    #[Needs(Permission::PayVendors)]
    public function content(Desk $desk, int $id, FileTalk $talk): Response
    {
        return $talk->download($this->bankFile($desk, $id));
    }

    #[Route('/make', name: 'bank_file_make', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function make(Desk $desk, Request $request, MakeBankFile $make): Response
    {
        $run = self::int($request->request, 'run');
        try {
            $id =
                $run > 0
                    ? $make->ofRun(
                        $desk->actor,
                        $run,
                        FileFormat::tryFrom((string) $request->request->get('format', '')) ??
                            throw Refused::because('format', 'Choose a format from the list.'),
                    )
                    : $make->prenotes($desk->actor, self::int($request->request, 'bank'), $desk->today);
        } catch (Refused $e) {
            $this->addFlash('refused', $e->getMessage());

            return $run > 0
                ? $this->redirectToRoute('proposal', ['company' => $desk->company->code, 'id' => $run], 303)
                : $this->redirectToRoute('bank_files', ['company' => $desk->company->code], 303);
        }
        $this->say('The file is made. Look at it; then it goes to the bank.');

        return $this->redirectToRoute('bank_file', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{id<\d+>}/withdraw', name: 'bank_file_withdraw', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function withdraw(Desk $desk, int $id, Request $request, FileTalk $talk): Response
    {
        $file = $this->bankFile($desk, $id);

        return $this->act(static fn (): string => $talk->withdraw($desk, $file, $request), 'bank_file', [
            'company' => $desk->company->code,
            'id' => $id,
        ]);
    }

    #[Route('/{id<\d+>}/send', name: 'bank_file_send', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function send(Desk $desk, int $id, Request $request, FileTalk $talk): Response
    {
        $file = $this->bankFile($desk, $id);

        return $this->act(static fn (): string => $talk->send($desk, $file, $request), 'bank_file', [
            'company' => $desk->company->code,
            'id' => $id,
        ]);
    }

    /** An answer that came another way. */
    #[Route('/{id<\d+>}/answer', name: 'bank_file_answer', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function answer(Desk $desk, int $id, Request $request, FileTalk $talk): Response
    {
        $file = $this->bankFile($desk, $id);

        return $this->act(static fn (): string => $talk->answer($desk, $file, $request), 'bank_file', [
            'company' => $desk->company->code,
            'id' => $id,
        ]);
    }

    private function bankFile(Desk $desk, int $id): BankFile
    {
        $file = $this->entities->find(BankFile::class, $id);
        if (!($file instanceof BankFile) || $file->companyId !== $desk->id() || FileFormat::Debit === $file->format) {
            throw $this->createNotFoundException('There is no such bank file in this company.');
        }

        return $file;
    }
}
