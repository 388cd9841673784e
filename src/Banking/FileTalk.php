<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;

/** What a person does with a file at the bank, and says what came of it: of payments and of direct debits alike. */
final readonly class FileTalk
{
    public function __construct(
        private SendBankFile $send,
        private TakeAnswer $take,
        private WithdrawFile $withdraw,
        private StandIns $standIns,
    ) {
    }

    /** @throws NotFoundHttpException when it is withdrawn: nobody is to take it to the bank */
    public function download(BankFile $file): Response
    {
        if (null !== $file->withdrawnAt) {
            throw new NotFoundHttpException(\sprintf('%s is withdrawn; it does not go to the bank.', $file->number));
        }

        return new Response($file->content, 200, [
            'Content-Type' => 'application/octet-stream',
            'Content-Disposition' => 'attachment; filename="'.$file->number.'.'.$file->format->extension().'"',
        ]);
    }

    /** @throws Refused */
    public function withdraw(Desk $desk, BankFile $file, Request $request): string
    {
        $reason = mb_substr((string) $request->request->get('reason', ''), 0, 255);
        $back = $this->withdraw->withdraw($desk->actor, $file->id(), $reason);

        return FileFormat::Debit === $file->format
            ? \sprintf(
                '%s is withdrawn; %s taken back.',
                $file->number,
                Words::count($back, 'receipt is', 'receipts are'),
            )
            : \sprintf('%s is withdrawn. Its payments wait for another file, or can be voided.', $file->number);
    }

    /** @throws Refused */
    public function send(Desk $desk, BankFile $file, Request $request): string
    {
        $again = '' !== $request->request->get('again', '');
        if (!$this->standIns->here) {
            $this->send->handOver($desk->actor, $file->id(), $again);

            return 'The file is handed over. Take the bank’s answer here when it comes.';
        }
        $said = $this->send->send(
            $desk->actor,
            $file->id(),
            $again,
            array_values(array_filter($request->request->all('reject'), is_string(...))),
            '' !== $request->request->get('whole', ''),
        );

        return \sprintf(
            'Sent. The bank answered: %d accepted, %d rejected.%s',
            $said['accepted'],
            $said['rejected'],
            $said['rejected'] > 0 ? ' What was rejected is open again.' : '',
        );
    }

    /**
     * An answer that came another way: as a file, or as somebody says.
     *
     * @throws Refused
     */
    public function answer(Desk $desk, BankFile $file, Request $request): string
    {
        if ('said' === $request->request->get('by')) {
            $said = $this->take->said(
                $desk->actor,
                $file->id(),
                array_values(array_filter($request->request->all('reject'), is_string(...))),
                (string) $request->request->get('reason', ''),
            );

            return \sprintf('Kept: %d accepted, %d rejected.', $said['accepted'], $said['rejected']);
        }
        $upload = $request->files->get('file');
        $said = $this->take->take(
            $desk->actor,
            $file->id(),
            $upload instanceof UploadedFile && $upload->isValid()
                ? $upload->getContent()
                : throw Refused::because('file', 'Choose the file with the bank’s answer.'),
        );

        return \sprintf('The answer is taken: %d accepted, %d rejected.', $said['accepted'], $said['rejected']);
    }
}
