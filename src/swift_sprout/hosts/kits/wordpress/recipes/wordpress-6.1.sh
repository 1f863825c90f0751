#!/bin/sh
# Unpacks the WordPress of Debian 12 into a folder, for demo and tests: wordpress-6.1.sh FOLDER
# PHP and MariaDB come from Debian packages too, which are installed where they are missing; nothing else is changed.
set -eu
mkdir -p "$1"
folder=$(cd "$1" && pwd)
version=6.1.9+dfsg1-0+deb12u1
packages="php8.2-cli php8.2-mysql mariadb-server-core php-getid3"

missing=
for package in $packages; do
	dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q "ok installed" || missing="$missing $package"
done
if [ -n "$missing" ]; then
	echo "installing$missing"
	sudo=
	[ "$(id -u)" = 0 ] || sudo=sudo
	$sudo apt-get update -qq
	DEBIAN_FRONTEND=noninteractive $sudo apt-get install -qq -y --no-install-recommends $missing >/dev/null
fi

rm -rf "$folder"
mkdir -p "$folder/download" "$folder/unpacked"
# the same host version with a newer security update is good as well, where the mirror has no other any more
(cd "$folder/download" && { apt-get download -qq "wordpress=$version" || apt-get download -qq "wordpress=6.1*"; } 2>/dev/null)
dpkg-deb -x "$folder"/download/wordpress_*.deb "$folder/unpacked"
for package in libjs-underscore libjs-cropper; do
	(cd "$folder/download" && apt-get download -qq "$package" 2>/dev/null && dpkg-deb -x $package*.deb "$folder/unpacked") || true
done
mkdir -p "$folder/unpacked/usr/share/php"
ln -s /usr/share/php/getid3 "$folder/unpacked/usr/share/php/getid3"
for package in wordpress-theme-twentytwentyone wordpress-theme-twentytwentytwo wordpress-theme-twentytwentythree \
	wordpress-shibboleth wordpress-xrds-simple wordpress-plugin-http-authentication; do
	(cd "$folder/download" && apt-get download -qq "$package" 2>/dev/null) || echo "not there: $package"
done
mkdir "$folder/others"
for package in "$folder"/download/wordpress-*.deb; do
	dpkg-deb -x "$package" "$folder/others"
done
rm -f "$folder/unpacked/usr/share/wordpress/.htaccess" # leads into /etc
cp -aL "$folder/unpacked/usr/share/wordpress" "$folder/wordpress"
mv "$folder/wordpress/wp-content/plugins/akismet" "$folder/others/"
rm "$folder/wordpress/wp-config.php"
rm -rf "$folder/download" "$folder/unpacked"
touch "$folder/ready"
