<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\People\Releases;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** What a party has several of: stops, addresses, contacts. Read and kept with the party, in its transaction. */
final readonly class PartyDetails
{
    public const STOPS = ['orders' => 'no new orders', 'invoices' => 'no new invoices', 'payment' => 'no payment'];
    public const ADDRESSES = ['order' => 'orders go to', 'invoice' => 'invoices go to', 'remit' => 'money goes to'];

    private const MOST_CONTACTS = 20;

    public function __construct(
        private Connection $db,
        private BooksDay $booksDay,
        private ClockInterface $clock,
        private Releases $releases,
    ) {
    }

    /**
     * @param array<mixed> $raw stops[what] (reason, ends_on), addresses[kind] (name, street, city, country), contacts[] (name, does,
     *                          email, phone); what is missing stays as it is
     *
     * @return array{stops: ?array<string, array{reason: string, ends_on: ?Day}>, addresses: ?array<string, array<string, string>>,
     *     contacts: ?list<array<string, string>>}
     */
    public function read(Actor $actor, array $raw, ProblemList $problems): array
    {
        $text = static fn (mixed $row, string $key): string => \is_array($row) && \is_scalar($row[$key] ?? null)
            ? trim((string) $row[$key])
            : '';
        $short = static function (string $value, int $most, string $field) use ($problems): string {
            if (mb_strlen($value) > $most) {
                $problems->add($field, \sprintf('This is longer than %d characters; shorten it.', $most));
            }

            return mb_substr($value, 0, $most);
        };
        $stops = $addresses = $contacts = null;
        if (\is_array($raw['stops'] ?? null)) {
            $stops = [];
            foreach (array_keys(self::STOPS) as $what) {
                $row = $raw['stops'][$what] ?? [];
                $ends =
                    '' === $text($row, 'ends_on')
                        ? null
                        : $problems->attempt(
                            fn (): Day => $this->booksDay
                                ->input($actor->companyId)
                                ->read($text($row, 'ends_on'), 'stops.'.$what),
                        );
                if ('' === $text($row, 'reason') && '' !== $text($row, 'ends_on')) {
                    $problems->add(
                        'stops.'.$what,
                        \sprintf('Say why there is %s; without a reason there is no stop.', self::STOPS[$what]),
                    );
                }
                if ('' !== $text($row, 'reason')) {
                    $stops[$what] = [
                        'reason' => $short($text($row, 'reason'), 255, 'stops.'.$what),
                        'ends_on' => $ends,
                    ];
                }
            }
        }
        if (\is_array($raw['addresses'] ?? null)) {
            $addresses = [];
            foreach (array_keys(self::ADDRESSES) as $kind) {
                $row = $raw['addresses'][$kind] ?? [];
                $address = [];
                foreach (['name' => 120, 'street' => 160, 'city' => 120, 'country' => 60] as $key => $most) {
                    $address[$key] = $short($text($row, $key), $most, 'addresses.'.$kind);
                }
                if ('' !== implode('', $address)) {
                    $addresses[$kind] = $address;
                }
            }
        }
        if (\is_array($raw['contacts'] ?? null)) {
            $contacts = [];
            foreach (\array_slice($raw['contacts'], 0, self::MOST_CONTACTS) as $row) {
                $contact = [];
                foreach (['name' => 120, 'does' => 80, 'email' => 160, 'phone' => 40] as $key => $most) {
                    $contact[$key] = $short($text($row, $key), $most, 'contacts');
                }
                if ('' !== $contact['email'] && false === filter_var($contact['email'], \FILTER_VALIDATE_EMAIL)) {
                    $problems->add(
                        'contacts',
                        \sprintf('“%s” is not an e-mail address.', mb_strimwidth($contact['email'], 0, 60, '…')),
                    );
                }
                if ('' !== implode('', $contact)) {
                    $contacts[] = $contact;
                }
            }
        }

        return ['stops' => $stops, 'addresses' => $addresses, 'contacts' => $contacts];
    }

    /** @return array<string, string> stops and addresses of a party in words, for the history */
    public function words(int $partyId): array
    {
        $words = [];
        ['stops' => $stops, 'addresses' => $addresses] = $this->of($partyId);
        foreach (self::STOPS as $what => $word) {
            $stop = $stops[$what] ?? null;
            $ends =
                null === $stop || !\is_string($stop['ends_on']) ? '' : ' until '.Day::of($stop['ends_on'])->long();
            $words[$word] = null === $stop ? '' : $stop['reason'].$ends;
        }
        foreach (self::ADDRESSES as $kind => $word) {
            $a = $addresses[$kind] ?? [];
            $words[$word] = implode(
                ', ',
                array_filter([$a['name'] ?? '', $a['street'] ?? '', $a['city'] ?? '', $a['country'] ?? '']),
            );
        }

        return $words;
    }

    /**
     * A stop that is taken away, or ends sooner, is released: by whoever set it or an approver.
     *
     * @param array{reason: string, ends_on: ?Day}|null $now
     *
     * @throws Refused
     */
    private function lifted(Actor $actor, int $partyId, string $what, ?array $now): void
    {
        $before = $this->db->fetchAssociative(
            'SELECT s.set_by_id, s.ends_on, p.name FROM party_stop s JOIN party p ON p.id = s.party_id WHERE s.party_id = ? AND s.what = ?',
            [$partyId, $what],
        );
        $today = $this->booksDay->of($actor->companyId);
        if (
            false === $before
            || (null !== $before['ends_on'] && Day::of((string) $before['ends_on'])->isBefore($today))
        ) {
            return; // there was none, or it is over
        }
        $sooner =
            null !== $now
            && null !== $now['ends_on']
            && (null === $before['ends_on'] || $now['ends_on']->isBefore(Day::of((string) $before['ends_on'])));
        if (null === $now || $sooner) {
            $this->releases->release(
                $actor,
                Releases::PARTY,
                $partyId,
                null === $before['set_by_id'] ? null : (int) $before['set_by_id'],
                \sprintf('the stop of %s (%s)', $before['name'], self::STOPS[$what]),
                'stops.'.$what,
            );
        }
    }

    /**
     * @param array{stops: ?array<string, array{reason: string, ends_on: ?Day}>, addresses: ?array<string, array<string, string>>,
     *     contacts: ?list<array<string, string>>} $details
     */
    public function keep(Actor $actor, int $partyId, array $details): void
    {
        foreach (null === $details['stops'] ? [] : array_keys(self::STOPS) as $what) {
            $stop = $details['stops'][$what] ?? null;
            $this->lifted($actor, $partyId, $what, $stop);
            if (null === $stop) {
                $this->db->executeStatement('DELETE FROM party_stop WHERE party_id = ? AND what = ?', [
                    $partyId,
                    $what,
                ]);
                continue;
            }
            // who set it stays while it holds, whatever is written in its reason: that person, or an approver, takes it away
            $this->db->executeStatement(
                <<<'SQL'
                INSERT INTO party_stop (party_id, what, reason, set_by_id, set_at, ends_on)
                VALUES (:party, :what, :reason, :who, :now, :ends)
                ON DUPLICATE KEY UPDATE set_by_id = IF(ends_on < :today, :who, set_by_id),
                    set_at = IF(ends_on < :today OR reason <> :reason, :now, set_at), reason = :reason, ends_on = :ends
                SQL
                ,
                [
                    'party' => $partyId,
                    'what' => $what,
                    'reason' => $stop['reason'],
                    'who' => $actor->userId,
                    'now' => $this->clock->now()->format('Y-m-d H:i:s'),
                    'ends' => $stop['ends_on']?->iso(),
                    'today' => $this->booksDay->of($actor->companyId)->iso(),
                ],
            );
        }
        if (null !== $details['addresses']) {
            $this->db->executeStatement('DELETE FROM party_address WHERE party_id = ?', [$partyId]);
            foreach ($details['addresses'] as $kind => $a) {
                $this->db->executeStatement(
                    'INSERT INTO party_address (party_id, kind, name, street, city, country) VALUES (?, ?, ?, ?, ?, ?)',
                    [$partyId, $kind, $a['name'], $a['street'], $a['city'], $a['country']],
                );
            }
        }
        if (null !== $details['contacts']) {
            $this->db->executeStatement('DELETE FROM party_contact WHERE party_id = ?', [$partyId]);
            foreach ($details['contacts'] as $k => $c) {
                $this->db->executeStatement(
                    'INSERT INTO party_contact (party_id, position, name, does, email, phone) VALUES (?, ?, ?, ?, ?, ?)',
                    [$partyId, $k, $c['name'], $c['does'], $c['email'], $c['phone']],
                );
            }
        }
    }

    /**
     * @return array{stops: array<string, array<string, mixed>>, addresses: array<string, array<string, mixed>>,
     *     contacts: list<array<string, mixed>>}
     */
    public function of(int $partyId): array
    {
        $of = ['stops' => [], 'addresses' => [], 'contacts' => []];
        foreach (
            $this->db->fetchAllNumeric(
                <<<'SQL'
                SELECT 'stops' AS part, 0 AS place, s.what AS of, s.reason, s.ends_on, s.set_at, u.name
                FROM party_stop s
                JOIN app_user u ON u.id = s.set_by_id
                WHERE s.party_id = :party
                UNION ALL
                SELECT 'addresses', 0, kind, name, street, city, country FROM party_address WHERE party_id = :party
                UNION ALL
                SELECT 'contacts', position, '', name, does, email, phone FROM party_contact WHERE party_id = :party
                ORDER BY part, place, of
                SQL
                ,
                ['party' => $partyId],
            ) as [$part, , $kind, $a, $b, $c, $d]
        ) {
            match ($part) {
                'stops' => ($of['stops'][$kind] = [
                    'what' => $kind,
                    'reason' => $a,
                    'ends_on' => $b,
                    'set_at' => $c,
                    'by_name' => $d,
                ]),
                'addresses' => ($of['addresses'][$kind] = [
                    'kind' => $kind,
                    'name' => $a,
                    'street' => $b,
                    'city' => $c,
                    'country' => $d,
                ]),
                default => ($of['contacts'][] = ['name' => $a, 'does' => $b, 'email' => $c, 'phone' => $d]),
            };
        }

        /**
         * @var array{stops: array<string, array<string, mixed>>, addresses: array<string, array<string, mixed>>,
         *     contacts: list<array<string, mixed>>}
         */
        return $of;
    }

    /**
     * In SQL: whether a party_stop s holds on a day. The one place that says so.
     *
     * @param string $on a placeholder or a column, never a value
     */
    public static function stopHolds(string $on = ':on'): string
    {
        return "(s.ends_on IS NULL OR s.ends_on >= $on)";
    }

    /** The reason of a stop that holds on a day, or null. */
    public function stopped(int $partyId, string $what, Day $day): ?string
    {
        $reason = $this->db->fetchOne(
            'SELECT s.reason FROM party_stop s WHERE s.party_id = ? AND s.what = ? AND '.self::stopHolds('?'),
            [$partyId, $what, $day->iso()],
        );

        return \is_string($reason) ? $reason : null;
    }

    /** @return list<string> name, street, city and country to which money goes: of the remit-to address when there is one */
    public function payee(int $partyId): array
    {
        $found =
            $this->db->fetchNumeric(
                <<<'SQL'
                SELECT COALESCE(NULLIF(a.name, ''), p.name), COALESCE(a.street, p.street), COALESCE(a.city, p.city),
                    COALESCE(a.country, p.country)
                FROM party p
                LEFT JOIN party_address a ON a.party_id = p.id AND a.kind = 'remit'
                WHERE p.id = ?
                SQL
                ,
                [$partyId],
            ) ?:
            [];

        return array_map(static fn (mixed $part): string => str_replace("\n", ' ', (string) $part), $found);
    }
}
