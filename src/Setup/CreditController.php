<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Nelbix\App\Parties\ReleaseCredit;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** More credit than a customer's limit, released by somebody who approves. */
final class CreditController extends Screen
{
    #[Route(
        '/{company}/receivables/party/{id<\d+>}/credit',
        name: 'credit_release',
        requirements: ['company' => '[A-Z0-9]{2,12}'],
        methods: ['POST'],
    ),]
    #[Needs(Permission::Approve)]
    public function release(Desk $desk, int $id, Request $request, ReleaseCredit $release, BooksDay $booksDay): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $release, $booksDay): string {
                $text = (new Fields($request->request->all()))->text(...);
                $base = Currency::of($desk->company->baseCurrency);
                $amount = AmountInput::read($text('amount'), $base, 'amount')->minor;
                $until = $booksDay->input($desk->id())->read($text('until'), 'until');
                $release->release($desk->actor, $id, $amount, $until, $text('reason'));

                return 0 === $amount
                    ? 'Nothing beyond the limit is released any more.'
                    : \sprintf(
                        '%s %s beyond the limit are released until %s.',
                        Typography::amount($amount, $base->code),
                        $base->code,
                        $until->long(),
                    );
            },
            'party',
            ['company' => $desk->company->code, 'side' => 'receivables', 'id' => $id],
        );
    }
}
