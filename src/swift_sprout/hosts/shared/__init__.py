"""What kits share, whatever their hosts are made of."""
