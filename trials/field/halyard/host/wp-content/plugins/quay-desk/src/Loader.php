<?php
namespace BrindleQuay\QuayDesk;

final class Loader {
	private array $hooks = [];

	public function add_action( string $hook, callable $callback, int $priority = 10, int $args = 1 ): void {
		$this->hooks[] = [ $hook, $callback, $priority, $args ];
	}

	public function run(): void {
		foreach ( $this->hooks as [ $hook, $callback, $priority, $args ] ) {
			add_filter( $hook, $callback, $priority, $args );
		}
	}
}
