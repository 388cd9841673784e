<?php

declare(strict_types=1);

$finder = (new PhpCsFixer\Finder())->in([__DIR__.'/core', __DIR__.'/src', __DIR__.'/demo', __DIR__.'/tests', __DIR__.'/migrations', __DIR__.'/config', __DIR__.'/public', __DIR__.'/bench']);

return (new PhpCsFixer\Config())
    ->setRiskyAllowed(true)
    ->setRules(['@Symfony' => true, 'declare_strict_types' => true, 'yoda_style' => true, 'phpdoc_to_comment' => false, 'concat_space' => ['spacing' => 'none'], 'single_line_throw' => false, 'native_function_invocation' => ['include' => ['@compiler_optimized'], 'scope' => 'namespaced', 'strict' => false], 'method_argument_space' => ['on_multiline' => 'ignore'], 'no_superfluous_phpdoc_tags' => ['allow_mixed' => true]])
    ->setCacheFile(__DIR__.'/var/.php-cs-fixer.cache')
    ->setFinder($finder);
