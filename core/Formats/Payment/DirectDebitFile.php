<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Customer direct debits, ISO 20022 pain.008.001.08: one block for each scheme and sequence. Source: the published message definition;
 * compared with files of a reference library in the tests.
 */
final readonly class DirectDebitFile
{
    public const SPACE = 'urn:iso:std:iso:20022:tech:xsd:pain.008.001.08';

    /**
     * @param string $id our number of the file
     * @param string $creditorId a creditor identifier
     * @param non-empty-list<DirectDebit> $debits
     *
     * @throws Refused when an account has no IBAN
     */
    public static function write(
        string $id,
        \DateTimeImmutable $made,
        Day $collectOn,
        string $name,
        string $creditorId,
        BankKey $to,
        string $currency,
        array $debits,
    ): string {
        if (!$to->hasIban()) {
            throw Refused::because(
                'bank',
                'Direct debits are collected on an account with an IBAN; enter it under Setup, Bank accounts.',
            );
        }
        foreach ($debits as $debit) {
            if (!$debit->from->hasIban() || $debit->amount <= 0) {
                throw Refused::because(
                    'debits',
                    \sprintf('The mandate of %s has no IBAN to collect from.', $debit->name),
                );
            }
        }
        $blocks = [];
        foreach ($debits as $debit) {
            $blocks[$debit->scheme.' '.$debit->sequence][] = $debit;
        }
        ksort($blocks);

        return IsoMessage::write(
            self::SPACE,
            static fn (IsoMessage $m) => $m->in('CstmrDrctDbtInitn', static function () use (
                $m,
                $id,
                $made,
                $collectOn,
                $name,
                $creditorId,
                $to,
                $currency,
                $debits,
                $blocks,
            ): void {
                $m->in('GrpHdr', static function () use ($m, $id, $made, $name, $currency, $debits): void {
                    $m->put('MsgId', IsoMessage::id($id));
                    $m->put('CreDtTm', $made->format('Y-m-d\TH:i:s'));
                    self::sums($m, $debits, $currency);
                    $m->in('InitgPty', static fn () => $m->put('Nm', IsoMessage::text($name, 70)));
                });
                $n = 0;
                foreach ($blocks as $of) {
                    $block = $id.'-'.++$n;
                    $m->in('PmtInf', static function () use (
                        $m,
                        $block,
                        $of,
                        $collectOn,
                        $name,
                        $creditorId,
                        $to,
                        $currency,
                    ): void {
                        self::head($m, $block, $of, $currency);
                        $m->put('ReqdColltnDt', $collectOn->iso());
                        self::creditor($m, $name, $creditorId, $to);
                        foreach ($of as $debit) {
                            $m->in('DrctDbtTxInf', static fn () => self::debit($m, $debit, $currency));
                        }
                    });
                }
            }),
        );
    }

    /** @param non-empty-list<DirectDebit> $of */
    private static function head(IsoMessage $m, string $block, array $of, string $currency): void
    {
        $m->put('PmtInfId', IsoMessage::id($block));
        $m->put('PmtMtd', 'DD');
        $m->put('BtchBookg', 'false');
        self::sums($m, $of, $currency);
        $m->in('PmtTpInf', static function () use ($m, $of): void {
            $m->in('SvcLvl', static fn () => $m->put('Cd', 'SEPA'));
            $m->in('LclInstrm', static fn () => $m->put('Cd', $of[0]->scheme));
            $m->put('SeqTp', $of[0]->sequence);
        });
    }

    private static function creditor(IsoMessage $m, string $name, string $creditorId, BankKey $to): void
    {
        $m->in('Cdtr', static fn () => $m->put('Nm', IsoMessage::text($name, 70)));
        $m->in('CdtrAcct', static fn () => $m->in('Id', static fn () => $m->put('IBAN', $to->iban)));
        self::agent($m, 'CdtrAgt', $to);
        $m->put('ChrgBr', 'SLEV');
        $m->in(
            'CdtrSchmeId',
            static fn () => $m->in(
                'Id',
                static fn () => $m->in(
                    'PrvtId',
                    static fn () => $m->in('Othr', static function () use ($m, $creditorId): void {
                        $m->put('Id', $creditorId);
                        $m->in('SchmeNm', static fn () => $m->put('Prtry', 'SEPA'));
                    }),
                ),
            ),
        );
    }

    private static function debit(IsoMessage $m, DirectDebit $debit, string $currency): void
    {
        $m->in('PmtId', static function () use ($m, $debit): void {
            $m->put('InstrId', IsoMessage::id($debit->id));
            $m->put('EndToEndId', IsoMessage::id($debit->id));
        });
        $m->put('InstdAmt', Money::of($debit->amount, $currency)->decimal(), $currency);
        $m->in(
            'DrctDbtTx',
            static fn () => $m->in('MndtRltdInf', static function () use ($m, $debit): void {
                $m->put('MndtId', IsoMessage::id($debit->mandate));
                $m->put('DtOfSgntr', $debit->signedOn->iso());
                $m->put('AmdmntInd', 'false');
            }),
        );
        self::agent($m, 'DbtrAgt', $debit->from);
        $m->in('Dbtr', static fn () => $m->put('Nm', IsoMessage::text($debit->name, 70)));
        $m->in('DbtrAcct', static fn () => $m->in('Id', static fn () => $m->put('IBAN', $debit->from->iban)));
        $m->in('RmtInf', static fn () => $m->put('Ustrd', IsoMessage::text(implode(' ', $debit->numbers), 140)));
    }

    /** @param list<DirectDebit> $debits */
    private static function sums(IsoMessage $m, array $debits, string $currency): void
    {
        $m->put('NbOfTxs', (string) \count($debits));
        $m->put(
            'CtrlSum',
            Money::of(
                array_sum(array_map(static fn (DirectDebit $d): int => $d->amount, $debits)),
                $currency,
            )->decimal(),
        );
    }

    private static function agent(IsoMessage $m, string $name, BankKey $key): void
    {
        $m->in(
            $name,
            static fn () => $m->in(
                'FinInstnId',
                static fn () => '' !== $key->bic
                    ? $m->put('BICFI', $key->bic)
                    : $m->in('Othr', static fn () => $m->put('Id', 'NOTPROVIDED')),
            ),
        );
    }
}
