<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Terms\EarlyDiscount;

/** An item of the core from a row of open_item: one place that knows its columns. */
final class StoredItem
{
    /**
     * @param array<string, mixed> $r id, party_id, kind, number, account_id, currency, original, original_base, open, open_base,
     *                                posting_date, due_date, document_date
     */
    public static function of(array $r, Side $side, ?EarlyDiscount $discount = null): OpenItem
    {
        return new OpenItem(
            (int) $r['id'],
            $side,
            (int) $r['party_id'],
            DocumentKind::from((string) $r['kind']),
            self::name($r),
            (int) $r['account_id'],
            (string) $r['currency'],
            (int) $r['original'],
            (int) $r['original_base'],
            (int) $r['open'],
            (int) $r['open_base'],
            Day::of((string) $r['posting_date']),
            Day::of((string) $r['due_date']),
            $discount,
            self::moved(DocumentKind::from((string) $r['kind']), $r),
            (string) ($r['their_order'] ?? ''),
        );
    }

    /**
     * What it is called; what is posted with it, at once, has no number yet.
     *
     * @param array<string, mixed> $r
     */
    private static function name(array $r): string
    {
        $money = DocumentKind::from((string) $r['kind'])->isMoney();

        return '' === (string) $r['number'] ? ($money ? 'this money' : 'this document') : (string) $r['number'];
    }

    /** @param array<string, mixed> $r */
    private static function moved(DocumentKind $kind, array $r): ?Day
    {
        return match (true) {
            $kind->isMoney() => Day::of((string) $r['posting_date']),
            $kind->carriesMoney() => Day::of((string) $r['document_date']),
            default => null,
        };
    }
}
