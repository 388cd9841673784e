<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Customer credit transfers, ISO 20022 pain.001.001.09. Source: the published message definition; compared with files of a reference
 * library in the tests.
 */
final readonly class CreditTransferFile implements PaymentFile
{
    private const SPACE = 'urn:iso:std:iso:20022:tech:xsd:pain.001.001.09';

    public function extension(): string
    {
        return 'xml';
    }

    public function write(PaymentOrder $order): string
    {
        if (!$order->from->hasIban() && !$order->from->hasRouting()) {
            throw Refused::because(
                'bank',
                'The bank account has neither IBAN nor routing and account number; enter them under Setup, Bank accounts.',
            );
        }

        return IsoMessage::write(
            self::SPACE,
            static fn (IsoMessage $m) => $m->in('CstmrCdtTrfInitn', static function () use ($m, $order): void {
                $m->in('GrpHdr', static fn () => self::header($m, $order));
                $m->in('PmtInf', static fn () => self::payments($m, $order));
            }),
        );
    }

    private static function header(IsoMessage $m, PaymentOrder $order): void
    {
        $m->put('MsgId', IsoMessage::id($order->id));
        $m->put('CreDtTm', $order->made->format('Y-m-d\TH:i:s'));
        self::sums($m, $order);
        $m->in('InitgPty', static fn () => $m->put('Nm', IsoMessage::text($order->name, 70)));
    }

    private static function payments(IsoMessage $m, PaymentOrder $order): void
    {
        $m->put('PmtInfId', IsoMessage::id($order->id.'-1'));
        $m->put('PmtMtd', 'TRF');
        $m->put('BtchBookg', 'false');
        self::sums($m, $order);
        $m->in('ReqdExctnDt', static fn () => $m->put('Dt', $order->payDate->iso()));
        $m->in('Dbtr', static fn () => $m->put('Nm', IsoMessage::text($order->name, 70)));
        self::account($m, 'DbtrAcct', $order->from, $order->accountCurrency);
        self::agent($m, 'DbtrAgt', $order->from);
        foreach ($order->transfers as $t) {
            if ((!$t->to->hasIban() && !$t->to->hasRouting()) || $t->amount <= 0) {
                throw Refused::because(
                    'format',
                    \sprintf('%s has no bank account to pay to; add it on its page, or pay it another way.', $t->name),
                );
            }
            $m->in('CdtTrfTxInf', static fn () => self::transfer($m, $t, $order->currency));
        }
    }

    private static function sums(IsoMessage $m, PaymentOrder $order): void
    {
        $m->put('NbOfTxs', (string) \count($order->transfers));
        $m->put('CtrlSum', Money::of($order->total(), $order->currency)->decimal());
    }

    private static function transfer(IsoMessage $m, Transfer $t, string $currency): void
    {
        $m->in('PmtId', static function () use ($m, $t): void {
            $m->put('InstrId', IsoMessage::id($t->id));
            $m->put('EndToEndId', IsoMessage::id($t->id));
        });
        $amount = Money::of($t->amount, $currency)->decimal();
        $m->in('Amt', static fn () => $m->put('InstdAmt', $amount, $currency));
        self::agent($m, 'CdtrAgt', $t->to);
        $m->in('Cdtr', static function () use ($m, $t): void {
            $m->put('Nm', IsoMessage::text($t->name, 70));
            if (1 === preg_match('/\A[A-Z]{2}\z/', $t->country)) {
                $m->in('PstlAdr', static fn () => $m->put('Ctry', $t->country));
            }
        });
        self::account($m, 'CdtrAcct', $t->to);
        $said = IsoMessage::text(implode(' ', array_column($t->pays, 'number')), 140);
        if ('' !== $said) {
            $m->in('RmtInf', static fn () => $m->put('Ustrd', $said));
        }
    }

    /** @param string $currency the account's own, which need not be that of the payments */
    private static function account(IsoMessage $m, string $name, BankKey $key, string $currency = ''): void
    {
        $m->in($name, static function () use ($m, $key, $currency): void {
            $m->in('Id', static function () use ($m, $key): void {
                if ($key->hasIban()) {
                    $m->put('IBAN', $key->iban);
                } else {
                    $m->in('Othr', static fn () => $m->put('Id', $key->account));
                }
            });
            if ('' !== $currency) {
                $m->put('Ccy', $currency);
            }
        });
    }

    private static function agent(IsoMessage $m, string $name, BankKey $key): void
    {
        $m->in(
            $name,
            static fn () => $m->in('FinInstnId', static function () use ($m, $key): void {
                if ('' !== $key->bic) {
                    $m->put('BICFI', $key->bic);
                } elseif ('' !== $key->routing) {
                    $m->in('ClrSysMmbId', static function () use ($m, $key): void {
                        $m->in('ClrSysId', static fn () => $m->put('Cd', 'USABA'));
                        $m->put('MmbId', $key->routing);
                    });
                } else {
                    $m->in('Othr', static fn () => $m->put('Id', 'NOTPROVIDED'));
                }
            }),
        );
    }
}
