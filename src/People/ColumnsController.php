<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\ChosenColumns;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Each person chooses the columns of a list; they lead back to where they were chosen. */
final class ColumnsController extends Screen
{
    #[Route('/{company}/columns', name: 'columns', requirements: ['company' => '[A-Z0-9]{2,12}'], methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function choose(Desk $desk, Request $request, ChosenColumns $chosen): Response
    {
        $raw = $request->request->all();
        $list = \is_string($raw['list'] ?? null) ? $raw['list'] : '';
        $columns = array_filter(\is_array($raw['columns'] ?? null) ? $raw['columns'] : [], \is_string(...));
        if (1 === preg_match(ChosenColumns::NAME, $list)) {
            $chosen->choose(
                $desk->actor,
                $list,
                array_values(
                    array_filter($columns, static fn (string $c): bool => 1 === preg_match('/\A\w{1,40}\z/', $c)),
                ),
            );
        }
        $back = \is_string($raw['back'] ?? null) ? $raw['back'] : '';
        $here =
            1 === preg_match('~\A/'.$desk->company->code.'/[\w/?=&%.+-]*\z~', $back) && !str_contains($back, '//');

        return $this->redirect($here ? $back : $this->generateUrl('today', ['company' => $desk->company->code]), 303);
    }
}
