<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Rates;

use Nelbix\App\Ledger\RateFeed;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Ledger\TakeRates;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Formats\Rates\EcbRates;
use Nelbix\Core\Money\Rate;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\File\UploadedFile;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Exchange rates: the last of each currency, the days of one, typed, out of a file or from the feed. */
#[Route('/{company}/close/rates', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RatesController extends Screen
{
    private const MOST_BYTES = 10_000_000;

    public function __construct(private readonly BooksDay $booksDay, private readonly StandIns $standIns)
    {
    }

    #[Route('', name: 'rates', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function rates(Desk $desk, Request $request, RatesQuery $query): Response
    {
        $base = $desk->company->baseCurrency;
        $asked = (string) $request->query->get('currency', '');
        $latest = $query->latest($desk->id(), $base, $desk->today, $asked);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'rates-'.$desk->today->iso(),
                ['date', 'from', 'to', 'rate'],
                array_map(static fn (array $r): array => [$r['day'], $r['currency'], $base, $r['rate']], $latest),
            );
        }
        $currency = '' === $asked ? $latest[0]['currency'] ?? '' : $asked;
        $known = 1 === preg_match('/\A[A-Z]{3}\z/', $currency);

        return $this->render('close/rates.html.twig', [
            'latest' => $latest,
            'currency' => $known ? $currency : '',
            'page' => $known
                ? $query->days($desk->id(), $currency, $base, $request->query->getString('after'))
                : ['rows' => [], 'next' => null],
            'begun' => $request->query->has('after'),
            'stand_ins' => $this->standIns->here,
        ]);
    }

    #[Route('', name: 'rates_save', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function save(Desk $desk, Request $request, SaveRate $saveRate): Response
    {
        $currency = strtoupper(trim($request->request->getString('currency')));
        $base = $desk->company->baseCurrency;

        return $this->act(
            function () use ($desk, $request, $saveRate, $currency, $base): string {
                $day = $this->booksDay->asked($desk->id(), $request->request, 'valid_on', $desk->today);
                $rate = Rate::parse(trim($request->request->getString('rate')));
                $changed = $saveRate->save(
                    $desk->actor,
                    $day,
                    $currency,
                    $base,
                    $rate,
                    'typed',
                    $request->request->getString('why'),
                );

                return \sprintf(
                    '%s: 1 %s is %s %s from %s on.%s',
                    $changed ? 'Kept' : 'It is so already',
                    $currency,
                    $rate,
                    $base,
                    $day->long(),
                    $changed ? ' What was posted before keeps its rate.' : '',
                );
            },
            'rates',
            [
                'company' => $desk->company->code,
                ...1 === preg_match('/\A[A-Z]{3}\z/', $currency) ? ['currency' => $currency] : [],
            ],
        );
    }

    #[Route('/file', name: 'rates_file', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function take(Desk $desk, Request $request, TakeRates $take): Response
    {
        return $this->act(
            function () use ($desk, $request, $take): string {
                $upload = $request->files->get('file');
                if (
                    !($upload instanceof UploadedFile)
                    || !$upload->isValid()
                    || $upload->getSize() > self::MOST_BYTES
                ) {
                    throw Refused::because('file', 'Choose a file of at most 10 MB with reference rates.');
                }
                $bytes = $upload->getContent();
                if (!EcbRates::knows($bytes)) {
                    throw Refused::because(
                        'file',
                        'The file is no reference rates (XML). A CSV file of rates is taken under Import, Rates: date, from, to, rate.',
                    );
                }

                return self::said($take->take($desk->actor, $bytes, 'ecb'));
            },
            'rates',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/feed', name: 'rates_feed', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function feed(Desk $desk, RateFeed $feed, TakeRates $take): Response
    {
        if (!$this->standIns->here) {
            throw $this->createNotFoundException('No feed is connected.');
        }

        return $this->act(
            static fn (): string => self::said($take->take($desk->actor, $feed->publishedOn($desk->today), 'feed')),
            'rates',
            ['company' => $desk->company->code],
        );
    }

    /** @param array{days: int, new: int, same: int, others: list<string>} $taken */
    private static function said(array $taken): string
    {
        return \sprintf(
            'Took %s of %s in%s%s.',
            Words::count($taken['new'], 'rate'),
            Words::count($taken['days'], 'day'),
            $taken['same'] > 0 ? \sprintf('; %d were there already', $taken['same']) : '',
            [] === $taken['others']
                ? ''
                : \sprintf(
                    '; another rate is there for %s%s, and stays',
                    implode(', ', \array_slice($taken['others'], 0, 5)),
                    \count($taken['others']) > 5 ? \sprintf(' and %d more', \count($taken['others']) - 5) : '',
                ),
        );
    }
}
