<?php
/** What modules carry beside pages: content types, shortcodes, blocks, style sheets and scripts, scheduled jobs. */

namespace SwiftSprout;

/** Each is drawn or called once, as a visitor's page would. */
final class Carried {
	/** The content types that modules registered: addresses of the archive and of one that is published. */
	public static function types(): array {
		$found = array();
		foreach ( Watch::$made['registered_post_type'] ?? array() as $made ) {
			$type = get_post_type_object( $made['name'] );
			if ( ! $type ) {
				continue;
			}
			$one     = $type->publicly_queryable ? get_posts( array( 'post_type' => $type->name, 'numberposts' => 1 ) )[0] ?? null : null;
			$found[] = $made + array(
				'seen'    => (bool) $type->publicly_queryable,
				'archive' => $type->has_archive ? self::path( (string) get_post_type_archive_link( $type->name ) ) : '',
				'one'     => $one ? self::path( (string) get_permalink( $one ) ) : '',
			);
		}
		return $found;
	}

	/** The address of a page that people wrote and that everybody can read; empty where there is none. */
	public static function ordinary(): string {
		$one = get_posts( array( 'post_type' => array( 'page', 'post' ), 'numberposts' => 1, 'has_password' => false ) )[0] ?? null;
		return $one ? self::path( (string) get_permalink( $one ) ) : '';
	}

	/** Pages that people can read and whose text holds a shortcode or a block of a module. */
	public static function written(): array {
		global $wpdb, $shortcode_tags;
		$wanted = array();
		foreach ( array_keys( $shortcode_tags ) as $tag ) {
			$wanted[ "[$tag" ] = $tag;
		}
		foreach ( array_keys( \WP_Block_Type_Registry::get_instance()->get_all_registered() ) as $name ) {
			if ( ! str_starts_with( $name, 'core/' ) ) {
				$wanted[ "<!-- wp:$name " ] = $name;
			}
		}
		$found = array();
		$rows  = $wpdb->get_results( "SELECT ID, post_content FROM {$wpdb->posts} WHERE post_status = 'publish' AND post_password = '' AND post_content REGEXP '\\\\[|<!-- wp:' ORDER BY ID LIMIT 500" );
		foreach ( $rows as $row ) {
			foreach ( $wanted as $text => $name ) {
				if ( ! isset( $found[ $name ] ) && str_contains( $row->post_content, $text ) ) {
					$found[ $name ] = self::path( (string) get_permalink( $row->ID ) );
				}
			}
		}
		foreach ( array( 'widget_block', 'widget_text' ) as $option ) { // what stands in areas of the theme
			$text = (string) wp_json_encode( get_option( $option ), JSON_UNESCAPED_SLASHES );
			foreach ( $wanted as $said => $name ) {
				if ( ! isset( $found[ $name ] ) && str_contains( $text, $said ) ) {
					$found[ $name ] = '/';
				}
			}
		}
		return $found;
	}

	/** What modules' shortcodes return, and what they print instead. */
	public static function codes( array $places ): void {
		global $shortcode_tags;
		foreach ( $shortcode_tags as $tag => $function ) {
			$told = Facts::callable_told( $function );
			if ( ! $told['callable'] || ! Facts::within( $told['file'], $places ) ) {
				continue;
			}
			self::told( 'code', $tag, $told, static fn() => call_user_func( $function, '', null, $tag ) );
		}
	}

	/** What modules' blocks draw without any choice made. */
	public static function blocks(): void {
		foreach ( \WP_Block_Type_Registry::get_instance()->get_all_registered() as $name => $block ) {
			$told = Facts::callable_told( $block->render_callback );
			if ( str_starts_with( $name, 'core/' ) || ! $block->is_dynamic() || ( $told['callable'] && ! $told['file'] ) ) {
				continue;
			}
			$drawn = array( 'blockName' => $name, 'attrs' => array(), 'innerBlocks' => array(), 'innerHTML' => '', 'innerContent' => array() );
			self::told( 'drawn', $name, $told, static fn() => render_block( $drawn ) );
		}
	}

	/** Names of what is registered: content types, style sheets and scripts, options, capabilities of content. */
	public static function names(): array {
		$rights = array();
		foreach ( array( ...array_values( get_post_types( array(), 'objects' ) ), ...array_values( get_taxonomies( array(), 'objects' ) ) ) as $thing ) {
			$rights = array_merge( $rights, array_values( (array) $thing->cap ) );
		}
		return array(
			'types'   => array_values( get_post_types() ),
			'taxonomies' => array_values( get_taxonomies() ),
			'handles' => array_map( 'strval', array_merge( array_keys( wp_styles()->registered ), array_keys( wp_scripts()->registered ) ) ),
			'options' => array_map( 'strval', array_keys( wp_load_alloptions() ) ),
			'rights'  => array_values( array_unique( array_filter( $rights, 'is_string' ) ) ),
		);
	}

	/** Style sheets and scripts of modules that wait for one that is not registered: they are never loaded. */
	public static function waiting(): array {
		$found = array();
		foreach ( array( wp_styles(), wp_scripts() ) as $kept ) {
			foreach ( $kept->registered as $handle => $asset ) {
				if ( ! is_string( $asset->src ) || ! str_contains( $asset->src, '/wp-content/' ) ) {
					continue;
				}
				foreach ( $asset->deps as $needed ) {
					if ( ! isset( $kept->registered[ $needed ] ) ) {
						$found[] = array( 'handle' => (string) $handle, 'source' => $asset->src, 'needs' => (string) $needed );
					}
				}
			}
		}
		return $found;
	}

	/** Style sheets and scripts of this host's modules that are registered or loaded, and whose file is not there. */
	public static function assets(): array {
		$asked = Facts::tried(
			static function (): array {
				do_action( 'wp_enqueue_scripts' );
				do_action( 'enqueue_block_assets' );
				return array( 'status' => 200 );
			}
		);
		return array( 'asked' => $asked, 'absent' => self::absent() );
	}

	/** Registered style sheets and scripts below the modules' folders that are not there. */
	public static function absent(): array {
		$found = array();
		foreach ( array( wp_styles(), wp_scripts() ) as $kept ) {
			foreach ( $kept->registered as $handle => $asset ) {
				$source = is_string( $asset->src ) ? strtok( $asset->src, '?#' ) : '';
				foreach ( array( WP_PLUGIN_URL => WP_PLUGIN_DIR, content_url() => WP_CONTENT_DIR ) as $url => $folder ) {
					if ( $source && str_starts_with( $source, "$url/" ) ) {
						$file = $folder . rawurldecode( substr( $source, strlen( $url ) ) );
						if ( ! is_file( $file ) ) {
							$found[] = array( 'handle' => (string) $handle, 'file' => $file );
						}
						break;
					}
				}
			}
		}
		return $found;
	}

	/** What is to be done at set times: events without anybody who does it, and the intervals that there are. */
	public static function jobs(): array {
		$events = array();
		foreach ( (array) _get_cron_array() as $hooks ) {
			foreach ( is_array( $hooks ) ? $hooks : array() as $hook => $runs ) {
				$run             = reset( $runs );
				$events[ $hook ] = array( 'every' => (string) ( $run['schedule'] ?? '' ), 'done' => (bool) has_action( $hook ) );
			}
		}
		return array( 'events' => $events, 'intervals' => array_keys( wp_get_schedules() ) );
	}

	/** Do once what is scheduled and done by modules of some places alone: those that reach nothing but the database and files. */
	public static function done( array $harmless ): void {
		global $wp_filter;
		set_time_limit( 10 ); // of work, not of waiting; what takes longer is not judged
		Files::keep();
		foreach ( (array) _get_cron_array() as $hooks ) {
			foreach ( is_array( $hooks ) ? $hooks : array() as $hook => $runs ) {
				$callbacks = array_merge( ...array_values( ( $wp_filter[ $hook ] ?? null )->callbacks ?? array() ) );
				$doers     = array_map( static fn( $one ) => Facts::callable_told( $one['function'] ), array_values( $callbacks ) );
				foreach ( $doers as $doer ) {
					foreach ( $harmless as $place ) {
						if ( str_starts_with( $doer['file'], $place . '/' ) ) {
							continue 2;
						}
					}
					continue 2;
				}
				if ( $doers ) {
					$given = (array) ( reset( $runs )['args'] ?? array() );
					$does  = static fn() => do_action_ref_array( $hook, $given );
					$came  = self::job( $hook, $doers[0], $does );
					if ( isset( $came['fatal'] ) && Trying::$made_rows ) { // it may come of the rows: once more without them
						Trying::forget();
						self::job( $hook, $doers[0], $does );
					}
				}
			}
		}
	}

	/** Do a job once; on rows that are made up, only what is wrong with its code is told. */
	private static function job( string $hook, array $doer, callable $does ): array {
		Guard::$made_up = Trying::$made_rows;
		$came           = self::told( 'job', $hook, $doer + array( 'made_up' => Trying::$made_rows ), $does );
		Guard::$made_up = false;
		return $came;
	}

	/** Call something and tell what came of it; told before as well, for it may end the run. */
	private static function told( string $sort, string $name, array $callback, callable $function ): array {
		answer( array( $sort => array( $name => $callback + array( 'ended' => true ) ) ) );
		Files::$written = false;
		$came           = Facts::tried(
			static function () use ( $function ): array {
				ob_start();
				try {
					$value   = $function();
				} finally {
					$printed = (string) ob_get_clean();
				}
				return array( 'status' => 200, 'returned' => gettype( $value ), 'printed' => substr( trim( $printed ), 0, 120 ) );
			}
		);
		answer( array( $sort => array( $name => $callback + $came + array( 'wrote' => Files::$written ) ) ) );
		return $came;
	}

	private static function path( string $address ): string {
		$path  = (string) parse_url( $address, PHP_URL_PATH );
		$query = (string) parse_url( $address, PHP_URL_QUERY );
		return $path . ( '' === $query ? '' : "?$query" );
	}
}
