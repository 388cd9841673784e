<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\AnnounceDebits;
use Nelbix\App\Banking\BankFile;
use Nelbix\App\Banking\DebitsQuery;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Settings;

/** Announces direct debits by mail, to those whose address is known; the others are printed. Call inside a transaction. */
final readonly class SendDebitNotices implements AnnounceDebits
{
    public function __construct(
        private EntityManagerInterface $entities,
        private DebitsQuery $debits,
        private BankAccounts $banks,
        private Settings $settings,
        private SendPaper $send,
    ) {
    }

    public function announce(Actor $actor, BankFile $file): int
    {
        $company = $this->entities->find(Company::class, $actor->companyId) ?? throw new \LogicException();
        $currency = $this->banks->find($actor->companyId, $file->bankAccountId)->currency ?? $actor->baseCurrency;
        $sent = 0;
        foreach ($this->debits->notices($file->id()) as $notice) {
            if (false === filter_var($notice['email'], \FILTER_VALIDATE_EMAIL)) {
                continue;
            }
            $this->send->send(
                $actor,
                $company,
                [
                    'email' => (string) $notice['email'],
                    'name' => (string) $notice['name'],
                    'language' => (string) $notice['language'],
                ],
                'Announcement of a direct debit',
                $file->number,
                'banking/debit_notice_pdf.html.twig',
                [
                    'company' => $company,
                    'creditor' => $this->settings->of($actor->companyId)->values['creditor_id'],
                    'file' => $file,
                    'currency' => $currency,
                    'notices' => [$notice],
                ],
                ['party', (int) $notice['party_id'], 'direct debit announced'],
            );
            ++$sent;
        }

        return $sent;
    }
}
