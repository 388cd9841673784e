<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Typography;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Direct debits: what is due by mandate, collecting it, its files, and the mandates of a customer. */
#[Route('/{company}/receivables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class DebitController extends Screen
{
    public function __construct(
        private readonly DebitsQuery $debits,
        private readonly BankAccounts $banks,
        private readonly BooksDay $booksDay,
        private readonly Settings $settings,
        private readonly EntityManagerInterface $entities,
    ) {
    }

    #[Route('/debits', name: 'debits', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        $error = $bank = null;
        $rows = [];
        $days = (int) $this->settings->of($desk->id())->values['debit_notice_days'];
        [$on, $through] = [$desk->today->plusDays($days), $desk->today->plusDays($days)];
        try {
            $on = $this->booksDay->asked($desk->id(), $request->query, 'on', $on);
            $through = $this->booksDay->asked($desk->id(), $request->query, 'through', $on);
            $bank = $this->banks->named($desk->id(), (string) $request->query->get('bank', ''));
            $rows = $this->debits->due($desk->id(), $bank, $through, $on);
        } catch (Refused $e) {
            $error = $e->getMessage();
        }
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'direct-debits',
                ['customer', 'name', 'mandate', 'sequence', 'item', 'due', 'currency', 'open', 'discount'],
                self::cells($rows, $bank->currency ?? $desk->company->baseCurrency),
            );
        }

        return $this->render('banking/debits.html.twig', [
            'rows' => $rows,
            'bank' => $bank,
            'banks' => $this->banks->names($desk->id()),
            'on' => $on,
            'through' => $through,
            'error' => $error,
            'creditor' => $this->settings->of($desk->id())->values['creditor_id'],
            'files' => $this->debits->files($desk->id()),
            'key' => FormKey::goOn([]),
        ]);
    }

    /**
     * @param list<array<string, mixed>> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(array $rows, string $currency): iterable
    {
        foreach ($rows as $r) {
            foreach ($r['items'] as $i) {
                yield [
                    $r['code'],
                    $r['name'],
                    $r['mandate'],
                    $r['sequence'],
                    $i['number'],
                    $i['due'],
                    $currency,
                    Money::of($i['open'], $currency)->decimal(),
                    Money::of($i['discount'], $currency)->decimal(),
                ];
            }
        }
    }

    #[Route('/debits', name: 'debits_collect', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function collect(Desk $desk, Request $request, CollectDebits $collect): Response
    {
        $asked = $request->request;
        try {
            $bank = $this->banks->named($desk->id(), (string) $asked->get('bank', ''));
            $on = $this->booksDay->asked($desk->id(), $asked, 'on', $desk->today);
            $made = $collect->collect(
                $desk->actor,
                $bank,
                $this->booksDay->asked($desk->id(), $asked, 'through', $on),
                $on,
                array_values(array_filter($asked->all('debits'), 'is_string')),
                FormKey::of($request),
            );
        } catch (Refused $e) {
            $this->refused($e);

            return $this->redirectToRoute(
                'debits',
                ['company' => $desk->company->code, ...self::asked($asked, ['on', 'through', 'bank'])],
                303,
            );
        }
        $this->say($this->said($made, $bank));

        return $this->redirectToRoute('debit_file', ['company' => $desk->company->code, 'id' => $made['file']], 303);
    }

    /** @param array{file: int, announced: int} $made */
    private function said(array $made, BankRow $bank): string
    {
        $file = $this->entities->find(BankFile::class, $made['file']) ?? throw new \LogicException();
        if ($made['announced'] < 0) {
            return \sprintf('%s was made already; this page was sent twice.', $file->number);
        }
        $left = $file->payments - $made['announced'];

        return \sprintf(
            'Made %s: %s %s on %s. %s in the outbox%s.',
            $file->number,
            Typography::amount($file->amount, $bank->currency),
            $bank->currency,
            $file->payDate->long(),
            Words::count($made['announced'], 'announcement lies', 'announcements lie'),
            0 === $left ? '' : \sprintf(', %s to be printed', Words::count($left, 'is', 'are')),
        );
    }

    #[Route('/debits/{id<\d+>}', name: 'debit_file', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function show(Desk $desk, int $id, BankFileQuery $query, HistoryQuery $history, StandIns $standIns): Response
    {
        $file = $this->collected($desk, $id);

        return $this->render('banking/file.html.twig', [
            'file' => $file,
            'stand_ins' => $standIns->here,
            'bank' => $this->banks->find($desk->id(), $file->bankAccountId),
            'run' => null,
            'lines' => $query->lines($id),
            'history' => $history->of($desk->id(), 'bank_file', $id),
            'area' => 'receivables',
            'side' => 'receivables',
            'routes' => 'debit_file',
            'list' => 'debits',
            'may' => $desk->may(Permission::EnterReceivables),
        ]);
    }

    #[Route('/debits/{id<\d+>}/content', name: 'debit_file_content', methods: ['GET'])]
    #[Needs(Permission::EnterReceivables)]
    public function content(Desk $desk, int $id, FileTalk $talk): Response
    {
        return $talk->download($this->collected($desk, $id));
    }

    #[Route('/debits/{id<\d+>}/notices.pdf', name: 'debit_file_notices', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function notices(Desk $desk, int $id, Paper $paper): Response
    {
        $file = $this->collected($desk, $id);

        return $paper->pdf(
            'banking/debit_notice_pdf.html.twig',
            [
                'company' => $desk->company,
                'creditor' => $this->settings->of($desk->id())->values['creditor_id'],
                'file' => $file,
                'currency' => $this->banks->find($desk->id(), $file->bankAccountId)->currency ?? $desk->company->baseCurrency,
                'notices' => $this->debits->notices($id),
            ],
            $file->number,
        );
    }

    #[Route('/debits/{id<\d+>}/withdraw', name: 'debit_file_withdraw', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function withdraw(Desk $desk, int $id, Request $request, FileTalk $talk): Response
    {
        $file = $this->collected($desk, $id);

        return $this->act(static fn (): string => $talk->withdraw($desk, $file, $request), 'debit_file', [
            'company' => $desk->company->code,
            'id' => $id,
        ]);
    }

    #[Route('/debits/{id<\d+>}/send', name: 'debit_file_send', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function send(Desk $desk, int $id, Request $request, FileTalk $talk): Response
    {
        $file = $this->collected($desk, $id);

        return $this->act(static fn (): string => $talk->send($desk, $file, $request), 'debit_file', [
            'company' => $desk->company->code,
            'id' => $id,
        ]);
    }

    #[Route('/debits/{id<\d+>}/answer', name: 'debit_file_answer', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function answer(Desk $desk, int $id, Request $request, FileTalk $talk): Response
    {
        $file = $this->collected($desk, $id);

        return $this->act(static fn (): string => $talk->answer($desk, $file, $request), 'debit_file', [
            'company' => $desk->company->code,
            'id' => $id,
        ]);
    }

    #[Route('/party/{id<\d+>}/mandates', name: 'mandate_sign', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function sign(Desk $desk, int $id, Request $request, SignMandate $sign): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $sign): string {
                $sign->sign($desk->actor, $id, $request->request->all());

                return 'The mandate is kept. What falls due can be collected by it, under Direct debits.';
            },
            'party',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $id],
        );
    }

    #[Route('/mandate/{id<\d+>}/end', name: 'mandate_end', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function end(Desk $desk, int $id, Request $request, SignMandate $sign): Response
    {
        try {
            $mandate = $sign->end($desk->actor, $id, (string) $request->request->get('why', ''));
        } catch (Refused $e) {
            $this->refused($e);
            $known = $this->entities->find(Mandate::class, $id);

            return null !== $known && $known->companyId === $desk->id()
                ? $this->party($desk, $known->partyId)
                : $this->redirectToRoute('debits', ['company' => $desk->company->code], 303);
        }
        $this->say(\sprintf('Mandate %s ends; nothing is collected by it any more.', $mandate->reference));

        return $this->party($desk, $mandate->partyId);
    }

    private function party(Desk $desk, int $id): Response
    {
        return $this->redirectToRoute(
            'party',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $id],
            303,
        );
    }

    private function collected(Desk $desk, int $id): BankFile
    {
        $file = $this->found($this->entities->find(BankFile::class, $id), $desk->id());
        \assert($file instanceof BankFile);

        return FileFormat::Debit === $file->format
            ? $file
            : throw $this->createNotFoundException('There is no such file of direct debits in this company.');
    }
}
